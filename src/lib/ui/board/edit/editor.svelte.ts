import type { Board, Conflict, Kept } from '$lib/core/board';
import { later } from './later';
import { BoardKeeping, type Reply, type Standing } from './keeping';

/** {@link BoardKeeping} in the browser: its standing is state, changes go to the API. */
export class BoardEditor {
  readonly #keeping: BoardKeeping;
  #standing = $state.raw<Standing>() as Standing;
  /** Whether the person has been told that leaving loses something. */
  #isWarned = false;

  constructor(kept: Kept) {
    this.#keeping = new BoardKeeping(kept, {
      send,
      later,
      changed: (standing) => (this.#standing = standing)
    });
    this.#standing = this.#keeping.standing;
  }

  get standing(): Standing {
    return this.#standing;
  }
  get board(): Board {
    return this.#standing.board;
  }
  get isUnkept(): boolean {
    return this.#keeping.isUnkept;
  }

  change(next: Board | null, why?: string): void {
    this.#isWarned = false;
    this.#keeping.change(next, why);
  }
  undo(): void {
    this.#keeping.undo();
  }
  redo(): void {
    this.#keeping.redo();
  }
  settle(conflict: Conflict, choice: 'mine' | 'theirs'): void {
    this.#keeping.settle(conflict, choice);
  }
  take(kept: Kept): void {
    this.#keeping.take(kept);
  }

  /** Reads what somebody else may have changed. */
  async read(): Promise<void> {
    const response = await fetch(`/api/v1/boards/${this.#keeping.id}`).catch(() => null);
    if (response?.ok) this.take((await response.json()) as Kept);
  }

  /** Keeps at once what is not kept. */
  flush(): Promise<void> {
    return this.#keeping.flush();
  }

  /** Whether one may go to another page: what cannot be kept at present would be lost, which is said once. */
  mayLeave(): boolean {
    const { saving } = this.#standing;
    if (!this.isUnkept || (saving !== 'refused' && saving !== 'waiting') || this.#isWarned) {
      void this.flush();
      return true;
    }
    this.#isWarned = true;
    this.#keeping.change(null, 'Your last change is not kept. Leave once more to give it up.');
    return false;
  }

  sendLast(): void {
    this.#keeping.sendLast();
  }
}

async function send(id: number, board: Board, version: number): Promise<Reply> {
  try {
    const response = await fetch(`/api/v1/boards/${id}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...board, version }),
      keepalive: document.visibilityState === 'hidden' // while the page goes away
    });
    return { status: response.status, body: (await response.json().catch(() => ({}))) as NonNullable<Reply>['body'] };
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    return null;
  }
}
