/** Somebody else who is on the same board. */
export interface Visitor {
  readonly name: string;
  readonly editing: boolean;
  /** The panel that they are changing; null when it is none. */
  readonly panel: string | null;
}

/** How often a browser says that its person is still there. */
const everyMs = 10_000;

/** Who else is on a board; says to the others that this person is, too. */
export class Presence {
  others = $state.raw<readonly Visitor[]>([]);
  #timer: ReturnType<typeof setInterval> | null = null;

  /** Says it now and from time to time. @returns what ends it */
  stay(id: number, how: () => { readonly editing: boolean; readonly panel: string | null }): () => void {
    const tell = () => void this.#tell(id, how());
    tell();
    this.#timer = setInterval(tell, everyMs);
    return () => {
      if (this.#timer !== null) clearInterval(this.#timer);
    };
  }

  async #tell(id: number, here: { readonly editing: boolean; readonly panel: string | null }): Promise<void> {
    const response = await fetch(`/api/v1/boards/${id}/presence`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(here)
    }).catch(() => null); // not reached: the helm says so
    if (response?.ok) this.others = ((await response.json()) as { others: Visitor[] }).others;
  }
}
