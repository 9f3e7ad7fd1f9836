import { z } from 'zod';
import { signalSchema } from '$lib/core/signal';
import { isZone } from '$lib/core/time';

/** Cells that one series of an answer may have. */
export const mostSeriesCells = 20_000;

/** Signals of one board. */
const mostSignals = 100;

/** An RFC 3339 instant in a request. */
const instantText = z
  .string()
  .refine((text) => /^\d{4}-\d\d-\d\dT.*(Z|[+-]\d\d:\d\d)$/i.test(text) && !Number.isNaN(Date.parse(text)), {
    error: 'Give a date and time with a zone, such as 2026-05-04T08:00:00Z.'
  });

const spanShape = {
  from: instantText,
  to: instantText,
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
const inOrder = ({ from, to }: { from: string; to: string }): boolean => Date.parse(from) <= Date.parse(to);
const outOfOrder = { error: 'The end must not be before the start.', path: ['to'] };

/** Body of `POST /api/v1/query`: a signal, a range, and how many cells a picture has room for; the step grows to fit. */
export const querySchema = z.strictObject({ signal: signalSchema, ...spanShape }).refine(inOrder, outOfOrder);
export type Query = z.infer<typeof querySchema>;

/** A range for each of several signals, where they differ. */
export const spansSchema = z
  .array(z.strictObject({ from: spanShape.from, to: spanShape.to, cells: spanShape.cells }).refine(inOrder, outOfOrder))
  .max(mostSignals)
  .optional();

/** Body of `POST /api/v1/queries`: the signals of a board, answered together over one range, or each over its own of `spans`. */
export const queriesSchema = z
  .strictObject({ signals: z.array(signalSchema).max(mostSignals), spans: spansSchema, ...spanShape })
  .refine(inOrder, outOfOrder)
  .refine(({ signals, spans }) => spans === undefined || spans.length === signals.length, {
    error: 'Give a span for each signal, or none.',
    path: ['spans']
  });
export type Queries = z.infer<typeof queriesSchema>;
