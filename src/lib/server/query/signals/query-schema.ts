import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { instantTextSchema } from '$lib/core/forms/instant-text';
import { signalSchema } from '$lib/core/signal';
import { isZone } from '$lib/core/time';

/** Cells that one series of an answer may have. */
export const mostSeriesCells = 20_000;

/** Signals of one board. */
const mostSignals = 100;

const spanShape = {
  from: instantTextSchema,
  to: instantTextSchema,
  cells: z.int().min(1).max(mostSeriesCells).optional(),
  /** IANA zone in which cells of days and weeks begin. */
  zone: z
    .string()
    .max(60)
    .refine(isZone, { error: 'Give a time zone by its IANA name, such as Europe/Berlin.' })
    .default('UTC'),
  /** Numbers, or packed: base64 of doubles, the lowest byte first, with NaN in gaps. */
  values: z.enum(['numbers', 'packed']).default('numbers')
};

/** How instants are written: as RFC 3339, or as milliseconds since the epoch. */
export interface WrittenTimes {
  readonly times?: 'rfc3339' | 'epoch';
}
const inOrder = ({ from, to }: { from: string; to: string }): boolean => Date.parse(from) <= Date.parse(to);
const outOfOrder = { error: 'The end must not be before the start.', path: ['to'] };

/** Body of `POST /api/v1/query`: a signal, a range, and how many cells a picture has room for; the step grows to fit. */
export const querySchema = z.strictObject({ signal: signalSchema, ...spanShape }).refine(inOrder, outOfOrder);
export type Query = z.infer<typeof querySchema> & WrittenTimes;

/** A range for each of several signals, where they differ. */
export const spansSchema = z
  .array(z.strictObject({ from: spanShape.from, to: spanShape.to, cells: spanShape.cells }).refine(inOrder, outOfOrder))
  .max(mostSignals)
  .optional();

/** Body of `POST /api/v1/queries`: the signals of a board, answered together over one range, or each over its own of `spans`. */
export const queriesSchema = z
  .strictObject({
    signals: z.array(signalSchema).max(mostSignals),
    spans: spansSchema,
    ...spanShape,
    of: z
      .strictObject({ board: idSchema, panels: z.array(z.string().max(40)).max(mostSignals) })
      .optional()
      .describe('The panels of a board whose signals they are, in the same order: for the list of what is slow.')
  })
  .refine(inOrder, outOfOrder)
  .refine(({ signals, spans }) => spans === undefined || spans.length === signals.length, {
    error: 'Give a span for each signal, or none.',
    path: ['spans']
  })
  .refine(({ signals, of }) => of === undefined || of.panels.length === signals.length, {
    error: 'Give a panel for each signal.',
    path: ['of', 'panels']
  });
export type Queries = z.infer<typeof queriesSchema> & WrittenTimes;
