import { z } from 'zod';
import { signalSchema } from '../signal';

/** The most panels of one board. */
export const mostPanels = 100;
/** How many columns a board is wide. */
export const boardColumns = 12;

/** Where a panel lies: columns from the left, rows from the top, and how many of each it takes. */
export const placeSchema = z
  .strictObject({
    x: z
      .int()
      .min(0)
      .max(boardColumns - 1),
    y: z.int().min(0).max(10_000),
    w: z.int().min(1).max(boardColumns),
    h: z.int().min(1).max(60)
  })
  .refine(({ x, w }) => x + w <= boardColumns, { error: 'The panel reaches over the edge of the board.' });
export type Place = z.infer<typeof placeSchema>;

/** A panel: a signal under a title, drawn as lines. */
export const panelSchema = z.strictObject({
  id: z.string().regex(/^[a-z0-9-]{1,40}$/),
  title: z.string().trim().min(1, { error: 'Give the panel a title.' }).max(120),
  picture: z.literal('lines'),
  signal: signalSchema,
  place: placeSchema
});
export type Panel = z.infer<typeof panelSchema>;

export const boardTitleSchema = z.string().trim().min(1, { error: 'Give the board a title.' }).max(120);

/**
 * What a board is, without who changed it when.
 *
 * @example boardSchema.parse({ title: 'Tickets', panels: [] })
 */
export const boardSchema = z
  .strictObject({ title: boardTitleSchema, panels: z.array(panelSchema).max(mostPanels) })
  .refine(({ panels }) => new Set(panels.map(({ id }) => id)).size === panels.length, {
    error: 'Two panels have the same id.',
    path: ['panels']
  });
export type Board = z.infer<typeof boardSchema>;
