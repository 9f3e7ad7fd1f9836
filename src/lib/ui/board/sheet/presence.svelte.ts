import { callApi, answerOrNull } from '../../api';
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
    const reply = await callApi<{ others: Visitor[] }>('POST', `/boards/${id}/presence`, { body: here });
    this.others = answerOrNull(reply)?.others ?? this.others; // not reached: the helm says so
  }
}
