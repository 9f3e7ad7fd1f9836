import { z } from 'zod';
import { boardSchema, boardTitleSchema, panelSchema, withPanel } from '$lib/core/board';
import { signalSchema } from '$lib/core/signal';
import { isTaken } from '../db/pool';
import { Refusal } from '../refusal';
import { resolveSignal } from '../signals/resolve';
import type { Bussola } from '../start';
import { boardById, changeBoard, insertBoard, type KeptBoard } from './boards';

/** Body of `PUT /api/v1/boards/…`: the board as it is to be, and the version it was read at. */
export const changedBoardSchema = z.strictObject({ ...boardSchema.shape, version: z.int().min(1) });

/** Body of `POST /api/v1/boards/…/panels`: what to put on the board. */
export const newPanelSchema = z.strictObject({ title: panelSchema.shape.title, signal: signalSchema });

/** Body of `POST /api/v1/boards`: a title, and panels if there are any already. */
export const newBoardSchema = z.strictObject({
  title: boardTitleSchema,
  panels: z.array(newPanelSchema).max(24).default([])
});

/** @throws Refusal when the title is taken, SignalRefusal when a signal cannot be worked out */
export async function makeBoard(
  { db, clock }: Bussola,
  { title, panels }: z.infer<typeof newBoardSchema>,
  by: string
): Promise<KeptBoard> {
  for (const { signal } of panels) await resolveSignal(db, signal);
  const placed = panels.reduce<KeptBoard['panels']>((all, panel) => withPanel(all, panel) ?? all, []);
  return unlessTaken(title, () => insertBoard(db, { title, panels: placed }, by, clock.now()));
}

/**
 * Changes a board.
 *
 * @returns null when it is gone
 * @throws Refusal when somebody else changed it meanwhile, or the title is taken
 */
export async function keepBoard(
  { db, clock }: Bussola,
  id: number,
  board: z.infer<typeof changedBoardSchema>,
  by: string
): Promise<KeptBoard | null> {
  const kept = await unlessTaken(board.title, () => changeBoard(db, { id, ...board }, by, clock.now()));
  if (kept !== null) return kept;
  const known = await boardById(db, id);
  if (known === null) return null;
  throw new Refusal(
    `${known.changedBy} changed this board meanwhile.`,
    'Load it again and make your change on what is there now.'
  );
}

/**
 * Puts a panel on a board, whatever else is changed there at the same time.
 *
 * @returns null when the board is gone
 * @throws Refusal when it is full, SignalRefusal when the signal cannot be worked out
 */
export async function addPanel(
  { db, clock }: Bussola,
  id: number,
  panel: z.infer<typeof newPanelSchema>,
  by: string
): Promise<KeptBoard | null> {
  await resolveSignal(db, panel.signal);
  for (;;) {
    const board = await boardById(db, id);
    if (board === null) return null;
    const panels = withPanel(board.panels, panel);
    if (panels === null)
      throw new Refusal(
        `The board ${board.title} is full.`,
        'Take a panel away first, or put this one on another board.'
      );
    const kept = await changeBoard(db, { ...board, panels }, by, clock.now());
    if (kept !== null) return kept; // else somebody was faster: once more on what is there now
  }
}

async function unlessTaken<Kept>(title: string, keep: () => Promise<Kept>): Promise<Kept> {
  try {
    return await keep();
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal(`There is already a board titled ${title}.`, 'Choose another title, or open that one.');
  }
}
