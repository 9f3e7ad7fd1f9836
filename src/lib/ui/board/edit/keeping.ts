import equal from 'fast-deep-equal';
import { boardOf, mergeBoards, type Board, type Conflict, type Kept } from '$lib/core/board';

/** How a change was kept: not yet, under way, kept, refused, or waiting because the server is not reached. */
export type Saving = 'kept' | 'to be kept' | 'keeping' | 'refused' | 'waiting';

/** What somebody who edits a board sees of how it stands. */
export interface Standing {
  /** As it is on the screen. */
  readonly board: Board;
  readonly saving: Saving;
  /** Why it is not kept; empty when it is or will be. */
  readonly problem: string;
  /** What others changed too: theirs stands until the person decides. */
  readonly conflicts: readonly Conflict[];
  /** What was undone or could not be done, to be read by the person. */
  readonly said: string;
  readonly changedAt: number;
  readonly changedBy: string;
  readonly mayUndo: boolean;
  readonly mayRedo: boolean;
}

/** What the server said to a change; null when it was not reached. */
export type Reply = { readonly status: number; readonly body: Partial<Kept> & Told } | null;

interface Told {
  readonly message?: string;
  readonly remedy?: string;
  readonly problems?: readonly { readonly message: string }[];
  readonly board?: Kept;
}

/** What keeping a board needs of the world. */
export interface Outside {
  /** Asks the server to keep a board that was read at a version. */
  send(id: number, board: Board, version: number): Promise<Reply>;
  /** Does something later. @returns what prevents it */
  later(ms: number, work: () => void): () => void;
  /** Hears that something stands differently. */
  changed(standing: Standing): void;
}

/** How long changes are gathered before they are sent, and how long after a lost connection it is tried again. */
const gatherMs = 500;
const retryMs = 3000;
const mostUndo = 100;

interface Step {
  readonly before: Board;
  readonly after: Board;
}

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
export class BoardKeeping {
  readonly id: number;
  readonly #outside: Outside;
  #standing: Standing;
  #past: readonly Step[] = [];
  #future: readonly Step[] = [];
  /** As the server knows it. */
  #base: Board;
  #version: number;
  #prevent: (() => void) | null = null;
  #underWay: Promise<void> | null = null;

  constructor(kept: Kept, outside: Outside) {
    this.id = kept.id;
    this.#outside = outside;
    this.#base = boardOf(kept);
    this.#version = kept.version;
    this.#standing = {
      board: this.#base,
      saving: 'kept',
      problem: '',
      conflicts: [],
      said: '',
      changedAt: kept.changedAt,
      changedBy: kept.changedBy,
      mayUndo: false,
      mayRedo: false
    };
  }

  get standing(): Standing {
    return this.#standing;
  }

  /** Whether leaving now would lose something. */
  get isUnkept(): boolean {
    return !equal(this.#standing.board, this.#base);
  }

  /** Changes the board; null, for a change that is not possible, says why. */
  change(next: Board | null, why = 'The board is full: take something away first.'): void {
    if (next === null) {
      this.#now({ said: why });
      return;
    }
    const plain = JSON.parse(JSON.stringify(next)) as Board; // what is undefined is not there
    const { board } = this.#standing;
    if (equal(plain, board)) return;
    this.#past = [...this.#past, { before: board, after: plain }].slice(-mostUndo);
    this.#future = [];
    this.#show(plain, '');
  }

  undo(): void {
    const step = this.#past.at(-1);
    if (!step) return;
    this.#past = this.#past.slice(0, -1);
    this.#turn(step, (back) => (this.#future = [...this.#future, back]));
  }

  redo(): void {
    const step = this.#future.at(-1);
    if (!step) return;
    this.#future = this.#future.slice(0, -1);
    this.#turn(step, (again) => (this.#past = [...this.#past, again]));
  }

  /** Puts mine in the place of theirs, or lets theirs stand. */
  settle(conflict: Conflict, choice: 'mine' | 'theirs'): void {
    this.#now({ conflicts: this.#standing.conflicts.filter((one) => one !== conflict) });
    if (choice === 'mine') this.change(withMine(this.#standing.board, conflict));
  }

  /** Takes what somebody else made of the board, together with what is not kept yet. */
  take(kept: Kept): void {
    if (kept.version <= this.#version) return;
    const theirs = boardOf(kept);
    const { board, conflicts } = mergeBoards(this.#base, this.#standing.board, theirs);
    this.#base = theirs;
    this.#version = kept.version;
    this.#now({
      board,
      conflicts: [...this.#standing.conflicts, ...conflicts],
      changedAt: kept.changedAt,
      changedBy: kept.changedBy
    });
    if (this.isUnkept) this.#later(gatherMs);
  }

  /** Keeps at once what is not kept. */
  async flush(): Promise<void> {
    this.#cancel();
    this.#underWay ??= this.#keep().finally(() => (this.#underWay = null));
    await this.#underWay;
  }

  /** Sends what is not kept while the page goes away; nobody hears the answer. */
  sendLast(): void {
    if (this.isUnkept) void this.#outside.send(this.id, this.#standing.board, this.#version);
  }

  /** Takes a step back, or on again: a merge, so that what others did since stays. */
  #turn({ before: to, after: from }: Step, note: (step: Step) => void): void {
    const before = this.#standing.board;
    const { board, conflicts } = mergeBoards(from, to, before);
    note({ before, after: board });
    this.#show(board, conflicts.length > 0 ? 'Some of it was changed since and stays as it is.' : '');
  }

  #show(board: Board, said: string): void {
    this.#now({ board, said, saving: 'to be kept' });
    this.#later(gatherMs);
  }

  #later(ms: number): void {
    this.#cancel();
    this.#prevent = this.#outside.later(ms, () => {
      this.#prevent = null;
      void this.flush();
    });
  }

  #cancel(): void {
    this.#prevent?.();
    this.#prevent = null;
  }

  async #keep(): Promise<void> {
    while (this.isUnkept) {
      this.#now({ saving: 'keeping' });
      const sent = this.#standing.board;
      const reply = await this.#outside.send(this.id, sent, this.#version);
      if (reply === null) {
        this.#now({
          saving: 'waiting',
          problem: 'Bussola is not reached. What you change is kept when the connection is back.'
        });
        this.#later(retryMs);
        return;
      }
      const { status, body } = reply;
      if (status < 300) this.#noteKept(body as Kept, sent);
      else if (status === 409 && body.board) {
        this.take(body.board);
        this.#cancel(); // it is sent at once
      } else {
        const [first] = body.problems ?? [];
        const why = first?.message ?? [body.message, body.remedy].filter(Boolean).join(' ');
        this.#now({ saving: 'refused', problem: `Not kept: ${why || 'Bussola could not keep it.'}` });
        return;
      }
    }
    this.#now({ saving: 'kept', problem: '' });
  }

  #noteKept(kept: Kept, sent: Board): void {
    this.#base = boardOf(kept);
    this.#version = kept.version;
    this.#now({
      changedAt: kept.changedAt,
      changedBy: kept.changedBy,
      problem: '',
      ...(this.#standing.board === sent ? { board: this.#base } : {})
    });
  }

  #now(to: Partial<Standing>): void {
    const [mayUndo, mayRedo] = [this.#past.length > 0, this.#future.length > 0];
    this.#standing = { ...this.#standing, ...to, mayUndo, mayRedo };
    this.#outside.changed(this.#standing);
  }
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
