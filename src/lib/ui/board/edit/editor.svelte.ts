import { answerOrNull, callApi, wordsOf } from '../../api';
import type { Board, Conflict, SavedBoard } from '$lib/core/board';
import { later } from './later';
import { BoardSaver, type SaveResult, type Standing } from './board-saver';

/** {@link BoardSaver} in the browser: its standing is state, changes go to the API. */
export class BoardEditor {
  readonly #saver: BoardSaver;
  #standing = $state.raw<Standing>() as Standing;
  /** Whether the person has been warned that leaving loses something. */
  #isWarned = false;

  constructor(kept: SavedBoard) {
    this.#saver = new BoardSaver(kept, {
      send,
      later,
      changed: (standing) => (this.#standing = standing)
    });
    this.#standing = this.#saver.standing;
  }

  get standing(): Standing {
    return this.#standing;
  }
  get board(): Board {
    return this.#standing.board;
  }
  get hasUnsavedChanges(): boolean {
    return this.#saver.hasUnsavedChanges;
  }

  change(next: Board | null, why?: string): void {
    this.#isWarned = false;
    this.#saver.change(next, why);
  }
  undo(): void {
    this.#saver.undo();
  }
  redo(): void {
    this.#saver.redo();
  }
  settle(conflict: Conflict, choice: 'mine' | 'theirs'): void {
    this.#saver.settle(conflict, choice);
  }
  take(kept: SavedBoard): void {
    this.#saver.take(kept);
  }

  /** Reads what somebody else may have changed. */
  async read(): Promise<void> {
    const kept = answerOrNull(await callApi<SavedBoard>('GET', `/boards/${this.#saver.id}`));
    if (kept !== null) this.take(kept);
  }

  /** Saves at once what is not saved. */
  flush(): Promise<void> {
    return this.#saver.flush();
  }

  /** Whether one may go to another page: what cannot be saved at present would be lost, which is shown once. */
  mayLeave(): boolean {
    const { saving } = this.#standing;
    if (!this.hasUnsavedChanges || (saving !== 'refused' && saving !== 'waiting') || this.#isWarned) {
      void this.flush();
      return true;
    }
    this.#isWarned = true;
    this.#saver.change(null, 'Your last change is not saved. Leave once more to discard it.');
    return false;
  }

  sendLast(): void {
    this.#saver.sendLast();
  }
}

async function send(id: number, board: Board, version: number): Promise<SaveResult> {
  const reply = await callApi<SavedBoard>('PUT', `/boards/${id}`, {
    body: { ...board, version },
    keepalive: document.visibilityState === 'hidden' // while the page goes away
  });
  if (reply.kind === 'answered') return { kind: 'saved', board: reply.answer };
  if (reply.kind === 'cancelled' || reply.problem.code === 'offline') return { kind: 'offline' };
  if (reply.problem.code !== 'changed-meanwhile') return { kind: 'refused', problem: wordsOf(reply.problem) };
  const now = await callApi<SavedBoard>('GET', `/boards/${id}`);
  if (now.kind === 'answered') return { kind: 'changed meanwhile', board: now.answer };
  return now.kind === 'cancelled' ? { kind: 'offline' } : { kind: 'refused', problem: wordsOf(now.problem) };
}
