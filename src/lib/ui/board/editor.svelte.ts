import equal from 'fast-deep-equal';
import { mergeBoards, type Board, type Conflict } from '$lib/core/board';

/** A board as the server gives it. */
export interface KeptBoard extends Board {
  readonly id: number;
  readonly version: number;
  readonly changedAt: number;
  readonly changedBy: string;
  readonly sharing: object;
}

/** How a change was kept: not yet, under way, kept, refused, or waiting because the server is not reached. */
export type Saving = 'kept' | 'to be kept' | 'keeping' | 'refused' | 'waiting';

/** How long changes are gathered before they are sent, and how long after a lost connection it is tried again. */
const gatherMs = 500;
const retryMs = 3000;
const mostUndo = 100;

/**
 * A board that somebody edits: every change is kept by itself a moment later, can be undone, and is brought together with what others change meanwhile.
 *
 * ```
 * kept → (change) → to be kept → (a moment) → keeping → kept
 *                                               ├ changed meanwhile → merged → keeping
 *                                               ├ refused (until the next change)
 *                                               └ not reached → waiting → keeping
 * ```
 */
export class BoardEditor {
  /** As it is on the screen. */
  board = $state.raw<Board>({ title: '', pickers: [], sections: [], panels: [] });
  saving = $state<Saving>('kept');
  /** Why it is not kept; empty when it is or will be. */
  problem = $state('');
  /** What others changed too: theirs stands until the person decides. */
  conflicts = $state.raw<readonly Conflict[]>([]);
  /** What was undone or brought together, to be read by the person. */
  said = $state('');
  changedAt = $state(0);
  changedBy = $state('');
  #past = $state.raw<readonly Step[]>([]);
  #future = $state.raw<readonly Step[]>([]);
  /** As the server knows it. */
  #base: Board;
  #version: number;
  #timer: ReturnType<typeof setTimeout> | null = null;
  #underWay: Promise<void> | null = null;

  constructor(kept: KeptBoard) {
    this.#base = this.board = contentOf(kept);
    this.#version = kept.version;
    this.#note(kept);
  }

  get version(): number {
    return this.#version;
  }
  get mayUndo(): boolean {
    return this.#past.length > 0;
  }
  get mayRedo(): boolean {
    return this.#future.length > 0;
  }
  /** Whether leaving now would lose something. */
  get isUnkept(): boolean {
    return !equal(this.board, this.#base);
  }

  /** Changes the board; null, for a change that is not possible, says why. */
  change(next: Board | null, why = 'The board is full: take something away first.'): void {
    if (next === null) {
      this.said = why;
      return;
    }
    const plain = JSON.parse(JSON.stringify(next)) as Board; // what is undefined is not there
    if (equal(plain, this.board)) return;
    this.#past = [...this.#past, { before: this.board, after: plain }].slice(-mostUndo);
    this.#future = [];
    this.said = '';
    this.#show(plain);
  }

  undo(): void {
    const step = this.#past.at(-1);
    if (!step) return;
    this.#past = this.#past.slice(0, -1);
    this.#future = [...this.#future, this.#turn(step.after, step.before)];
  }

  redo(): void {
    const step = this.#future.at(-1);
    if (!step) return;
    this.#future = this.#future.slice(0, -1);
    this.#past = [...this.#past, this.#turn(step.after, step.before)];
  }

  /** Puts mine in the place of theirs, or lets theirs stand. */
  settle(conflict: Conflict, choice: 'mine' | 'theirs'): void {
    this.conflicts = this.conflicts.filter((one) => one !== conflict);
    if (choice === 'mine') this.change(withMine(this.board, conflict));
  }

  /** Takes what somebody else made of the board, together with what is not kept yet. */
  take(kept: KeptBoard): void {
    if (kept.version <= this.#version) return;
    const { board, conflicts } = mergeBoards(this.#base, this.board, contentOf(kept));
    this.#base = contentOf(kept);
    this.#version = kept.version;
    this.#note(kept);
    this.conflicts = [...this.conflicts, ...conflicts];
    this.board = board;
    if (this.isUnkept) this.#later(gatherMs);
  }

  /** Reads what somebody else may have changed. */
  async read(id: number): Promise<void> {
    const response = await fetch(`/api/v1/boards/${id}`).catch(() => null);
    if (response?.ok) this.take((await response.json()) as KeptBoard);
  }

  /** Keeps at once what is not kept. */
  async flush(id: number): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    this.#id = id;
    this.#underWay ??= this.#keep().finally(() => (this.#underWay = null));
    await this.#underWay;
  }

  /** Sends what is not kept while the page goes away; nobody hears the answer. */
  sendLast(id: number): void {
    if (!this.isUnkept) return;
    void fetch(`/api/v1/boards/${id}`, { ...this.#request(), keepalive: true });
  }

  #id = 0;
  /** Begins to keep changes by itself. */
  attach(id: number): void {
    this.#id = id;
  }

  #turn(from: Board, to: Board): Step {
    const before = this.board;
    const { board, conflicts } = mergeBoards(from, to, this.board);
    this.said = conflicts.length > 0 ? 'Some of it was changed since and stays as it is.' : '';
    this.#show(board);
    return { before, after: board };
  }

  #show(board: Board): void {
    this.board = board;
    this.saving = 'to be kept';
    this.#later(gatherMs);
  }

  #later(ms: number): void {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = setTimeout(() => {
      this.#timer = null;
      void this.flush(this.#id);
    }, ms);
  }

  #request(): RequestInit {
    return {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...this.board, version: this.#version })
    };
  }

  async #keep(): Promise<void> {
    while (this.isUnkept) {
      this.saving = 'keeping';
      const sent = this.board;
      const response = await fetch(`/api/v1/boards/${this.#id}`, this.#request()).catch(() => null);
      if (response === null) {
        this.saving = 'waiting';
        this.problem = 'Bussola is not reached. What you change is kept when the connection is back.';
        this.#later(retryMs);
        return;
      }
      const told = (await response.json().catch(() => ({}))) as KeptBoard & Told;
      if (response.ok) {
        this.#base = contentOf(told);
        this.#version = told.version;
        this.#note(told);
        if (this.board === sent) this.board = this.#base;
        this.problem = '';
      } else if (response.status === 409 && told.board) {
        this.take(told.board);
        if (this.#timer !== null) clearTimeout(this.#timer);
        this.#timer = null;
      } else {
        this.saving = 'refused';
        const first = told.problems?.[0];
        this.problem = first
          ? `Not kept: ${first.message}`
          : `Not kept: ${[told.message, told.remedy].filter(Boolean).join(' ') || 'Bussola could not keep it.'}`;
        return;
      }
    }
    this.saving = 'kept';
  }

  #note({ changedAt, changedBy }: KeptBoard): void {
    this.changedAt = changedAt;
    this.changedBy = changedBy;
  }
}

interface Step {
  readonly before: Board;
  readonly after: Board;
}

interface Told {
  readonly message?: string;
  readonly remedy?: string;
  readonly problems?: readonly { readonly message: string }[];
  readonly board?: KeptBoard;
}

/** The board itself, without who changed it when. */
export function contentOf({
  id: _,
  version: _v,
  changedAt: _a,
  changedBy: _b,
  sharing: _s,
  ...board
}: KeptBoard): Board {
  return board;
}

/** The board with my side of a conflict. */
function withMine(board: Board, { of, id, field, mine }: Conflict): Board {
  if (of === 'board') return { ...board, [field as string]: mine };
  const put = <One extends object>(list: readonly One[], key: keyof One): One[] => {
    const known = list.some((one) => one[key] === id);
    if (!known) return [...list, mine as One];
    return list.map((one) =>
      one[key] !== id ? one : field === null || field === 'picture' ? (mine as One) : { ...one, [field]: mine }
    );
  };
  if (of === 'panel') return { ...board, panels: put(board.panels, 'id') };
  if (of === 'section') return { ...board, sections: put(board.sections, 'id') };
  return { ...board, pickers: put(board.pickers, 'name') };
}
