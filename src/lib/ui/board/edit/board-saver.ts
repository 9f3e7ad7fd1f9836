import equal from 'fast-deep-equal';
import { boardOf, mergeBoards, type Board, type Conflict, type SavedBoard } from '$lib/core/board';

/** How a change stands: saved, not yet, being saved, refused, or waiting because the server cannot be reached. */
export type Saving = 'saved' | 'unsaved' | 'saving' | 'refused' | 'waiting';

/** What somebody who edits a board sees of how it stands. */
export interface Standing {
  /** As it is on the screen. */
  readonly board: Board;
  readonly saving: Saving;
  /** Why it is not saved; empty when it is or will be. */
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

/** What became of a change that was sent. */
export type SaveResult =
  | { readonly kind: 'saved'; readonly board: SavedBoard }
  /** Somebody else changed the board meanwhile: as it is now. */
  | { readonly kind: 'changed meanwhile'; readonly board: SavedBoard }
  | { readonly kind: 'refused'; readonly problem: string }
  | { readonly kind: 'offline' };

/** What saving a board needs of the world. */
export interface Outside {
  /** Asks the server to save a board that was read at a version. */
  send(id: number, board: Board, version: number): Promise<SaveResult>;
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
 * A board that somebody edits: every change is saved automatically a moment later, can be undone, and is merged with what others change meanwhile.
 *
 * ```
 * saved → (change) → unsaved → (a moment) → saving → saved
 *                                             ├ changed meanwhile → merged → saving
 *                                             ├ refused (until the next change)
 *                                             └ offline → waiting → saving
 * ```
 */
export class BoardSaver {
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

  constructor(kept: SavedBoard, outside: Outside) {
    this.id = kept.id;
    this.#outside = outside;
    this.#base = boardOf(kept);
    this.#version = kept.version;
    this.#standing = {
      board: this.#base,
      saving: 'saved',
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
  get hasUnsavedChanges(): boolean {
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

  /** Takes what somebody else made of the board, merged with what is not saved yet. */
  take(kept: SavedBoard): void {
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
    if (this.hasUnsavedChanges) this.#later(gatherMs);
  }

  /** Saves at once what is not saved. */
  async flush(): Promise<void> {
    this.#cancel();
    this.#underWay ??= this.#save().finally(() => (this.#underWay = null));
    await this.#underWay;
  }

  /** Sends unsaved changes while the page goes away; nobody hears the answer. */
  sendLast(): void {
    if (this.hasUnsavedChanges) void this.#outside.send(this.id, this.#standing.board, this.#version);
  }

  /** Takes a step back, or on again: a merge, so that what others did since stays. */
  #turn({ before: to, after: from }: Step, note: (step: Step) => void): void {
    const before = this.#standing.board;
    const { board, conflicts } = mergeBoards(from, to, before);
    note({ before, after: board });
    this.#show(board, conflicts.length > 0 ? 'Some of it was changed since and stays as it is.' : '');
  }

  #show(board: Board, said: string): void {
    this.#now({ board, said, saving: 'unsaved' });
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

  async #save(): Promise<void> {
    while (this.hasUnsavedChanges) {
      this.#now({ saving: 'saving' });
      const sent = this.#standing.board;
      const result = await this.#outside.send(this.id, sent, this.#version);
      if (result.kind === 'offline') {
        this.#now({
          saving: 'waiting',
          problem: 'Bussola cannot be reached. Your changes are saved when the connection is back.'
        });
        this.#later(retryMs);
        return;
      }
      if (result.kind === 'refused') {
        this.#now({ saving: 'refused', problem: `Not saved: ${result.problem}` });
        return;
      }
      if (result.kind === 'saved') this.#noteSaved(result.board, sent);
      else {
        this.take(result.board);
        this.#cancel(); // it is sent at once
      }
    }
    this.#now({ saving: 'saved', problem: '' });
  }

  #noteSaved(kept: SavedBoard, sent: Board): void {
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
