import { Refusal } from '$lib/core/problem/problem';
import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import {
  agree,
  boardOf,
  boardSchema,
  boardShape,
  boardTitleSchema,
  changePanel,
  mapSignals,
  panelSchema,
  pictured,
  signalPictures,
  signalsOf,
  withPanel,
  type Board,
  type PanelContent
} from '$lib/core/board';
import { signalSchema, type Signal } from '$lib/core/signal';
import { isTaken } from '../db/pool';
import { noSuchBoard } from './not-found';
import { resolveSignal } from '../query/signals/resolve';
import type { Context } from '../db/context';
import { boardById, changeBoard, insertBoard, type Author, type StoredBoard } from './boards';

/** Body of `PUT /api/v1/boards/…`: the board as it is to be, and the version it was read at. */
export const changedBoardSchema = z.strictObject({ ...boardShape, version: z.int().min(1) }).superRefine(agree);

const newSignalSchema = z.strictObject({
  title: z.string().trim().min(1, { error: 'Give the panel a title.' }).max(120),
  signal: signalSchema,
  picture: z.enum(signalPictures).default('lines')
});

/** Body of `POST /api/v1/boards/…/panels`: a signal to put on the board, or a panel as another board has it. */
export const newPanelSchema = z.union([newSignalSchema, z.strictObject({ panel: panelSchema })]);

/** Body of `POST /api/v1/boards`: a title with signals to put on the board, or a whole board. */
export const newBoardSchema = z.union([
  z.strictObject({ title: boardTitleSchema, panels: z.array(newSignalSchema).max(24).default([]) }),
  boardSchema
]);

/** @throws Refusal when the title is taken, Refusal when a signal cannot be computed */
export async function makeBoard(
  { db, clock }: Pick<Context, 'db' | 'clock'>,
  asked: z.input<typeof newBoardSchema>,
  by: Author
): Promise<StoredBoard> {
  const read = newBoardSchema.parse(asked);
  const board = wholeBoard(read);
  // A whole board is taken as it is, also where something it shows is gone: the panel says so.
  if (!('sections' in read)) for (const signal of board.panels.flatMap(signalsOf)) await resolveSignal(db, signal);
  return unlessTaken(board.title, () => insertBoard(db, board, by, clock.now()));
}

function wholeBoard(asked: z.infer<typeof newBoardSchema>): Board {
  if ('sections' in asked) return asked;
  const panels = asked.panels.reduce<Board['panels']>(
    (all, { title, signal, picture }) => withPanel(all, pictured(title, signal, picture)) ?? all,
    []
  );
  return { title: asked.title, pickers: [], sections: [], panels };
}

/**
 * Changes a board that nobody changed since it was read: what somebody else changed meanwhile is never overwritten.
 *
 * @throws Refusal `changed-meanwhile`; `not-found` when it was removed; `name-taken`
 */
export async function saveBoard(
  { db, clock, changes }: Context,
  id: number,
  { version, ...board }: z.infer<typeof changedBoardSchema>,
  by: Author
): Promise<StoredBoard> {
  const kept = await unlessTaken(board.title, () => changeBoard(db, { id, version }, board, by, clock.now()));
  if (kept !== null) {
    changes.tell('board', { boardId: id });
    return kept;
  }
  const known = await boardById(db, id);
  if (known === null) throw noSuchBoard();
  throw new Refusal(
    'changed-meanwhile',
    `${known.changedBy} changed this board meanwhile.`,
    'Load the board and make the change again.'
  );
}

/** What is put on a board; what belongs to another board stays there. */
function contentOf(asked: z.infer<typeof newPanelSchema>): PanelContent {
  if (!('panel' in asked)) return pictured(asked.title, asked.signal, asked.picture);
  const { id: _, place: _place, section: _section, ignores: _ignores, ...content } = asked.panel;
  return content;
}

/** Body of `PUT /api/v1/boards/…/panels/…`: the signal that a panel is to have. */
export const changedSignalSchema = z.strictObject({ signal: signalSchema });

/**
 * Puts a panel on a board, whatever else is changed there at the same time.
 *
 * @returns null when the board is gone
 * @throws Refusal when it is full, Refusal when the signal cannot be computed
 */
export async function addPanel(
  context: Context,
  id: number,
  asked: z.input<typeof newPanelSchema>,
  by: Author
): Promise<StoredBoard | null> {
  const content = contentOf(newPanelSchema.parse(asked));
  for (const signal of signalsOf(content)) await resolveSignal(context.db, signal);
  return changeWhatIs(context, id, by, (board) => {
    const panels = withPanel(board.panels, content, randomUUID());
    if (panels === null)
      throw new Refusal(
        'board-full',
        `The board ${board.title} is full.`,
        'Take a panel away first, or put this one on another board.'
      );
    return { ...board, panels };
  });
}

/**
 * Puts another signal in the place of a panel's first, whatever else is changed on the board at the same time.
 *
 * @returns null when the board or the panel is gone, or the panel has no signal
 * @throws Refusal when the signal cannot be computed
 */
export async function changeSignal(
  context: Context,
  id: number,
  panelId: string,
  signal: Signal,
  by: Author
): Promise<StoredBoard | null> {
  await resolveSignal(context.db, signal);
  return changeWhatIs(context, id, by, (board) => {
    const panel = board.panels.find((one) => one.id === panelId);
    const first = panel && signalsOf(panel)[0];
    if (first === undefined) return null;
    return changePanel(board, panelId, (one) => mapSignals(one, (of) => (of === first ? signal : of)));
  });
}

/** Changes a board as it is at that moment; somebody who is faster only makes it be tried again. Null when the board is gone or there is nothing to change. */
async function changeWhatIs(
  { db, clock, changes }: Context,
  id: number,
  by: Author,
  change: (board: Board) => Board | null
): Promise<StoredBoard | null> {
  for (;;) {
    const kept = await boardById(db, id);
    if (kept === null) return null;
    const next = change(boardOf(kept));
    if (next === null) return null;
    const changed = await changeBoard(db, kept, next, by, clock.now());
    if (changed === null) continue;
    changes.tell('board', { boardId: id });
    return changed;
  }
}

export async function unlessTaken<Kept>(title: string, keep: () => Promise<Kept>): Promise<Kept> {
  try {
    return await keep();
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal(
      'name-taken',
      `There is already a board titled ${title}.`,
      'Choose another title, or open that one.'
    );
  }
}
