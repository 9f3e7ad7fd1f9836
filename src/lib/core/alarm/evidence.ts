import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { levelSchema, mostWindowCells, ruleWithLevels, windowSchema, whenMissing } from './schema';

const cells = <Item extends z.ZodType>(item: Item) => z.array(item).max(mostWindowCells);
const numberOrGap = z.number().nullable();

/** The numbers a change of state was decided on: the window that ended with the deciding cell. */
export const evidenceSchema = z.strictObject({
  /** Start of the first cell of the window and the length of a cell, ms. */
  start: z.number(),
  step: z.number(),
  /** What was compared, oldest first: the values themselves for most kinds of condition; null is a gap. */
  values: cells(numberOrGap),
  /** The bounds then in force; null for none. One for all cells where it did not change. */
  low: cells(numberOrGap),
  high: cells(numberOrGap),
  /** What each cell said, see `cellCode`, a digit each. */
  codes: z
    .string()
    .regex(/^[0-3]*$/)
    .max(mostWindowCells),
  /** When each cell's newest sample came, ms since the epoch; null when that is not known any more. */
  arrived: cells(numberOrGap).optional(),
  met: z.int(),
  missing: z.int(),
  well: z.int(),
  /** The level that decided, and how cells were counted. */
  level: levelSchema,
  window: windowSchema,
  clearing: windowSchema.optional(),
  whenMissing: z.enum(whenMissing),
  /** Which version of the alarm's definition it was, counted from 1; 0 when that was not noted. */
  alarmVersion: z.int().min(0)
});
export type Evidence = z.infer<typeof evidenceSchema>;

/** How evidence is stored. */
export const evidenceForm: StoredForm<Evidence> = {
  what: 'The evidence',
  version: 2,
  schema: evidenceSchema,
  upgrades: [withBounds]
};

/** Version 1 had the values alone, and one threshold. */
function withBounds(older: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const { rule, values, met, missing, start, step } = older;
  const upgraded = ruleWithLevels(rule, 'major') as {
    levels?: { condition: { is?: string; limit?: number } }[];
    window?: unknown;
    whenMissing?: unknown;
  };
  const level = upgraded?.levels?.[0];
  const limit = level?.condition.limit ?? null;
  const isAbove = level?.condition.is === 'above';
  const list = Array.isArray(values) ? (values as (number | null)[]) : [];
  const meets = (value: number) => limit !== null && (isAbove ? value > limit : value < limit);
  return {
    start,
    step,
    values,
    low: [isAbove ? null : limit],
    high: [isAbove ? limit : null],
    codes: list.map((value) => (value === null ? 2 : meets(value) ? 1 : 3)).join(''),
    met,
    missing,
    well: list.filter((value) => value !== null && !meets(value)).length,
    level,
    window: upgraded?.window,
    whenMissing: upgraded?.whenMissing,
    alarmVersion: 0
  };
}
