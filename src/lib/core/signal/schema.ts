import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { day, daysOf, durationFromText, type Duration } from '../time';
import { wildcard } from '../pattern';
import { statistics } from '../series';
import { labelConditionSchema } from './conditions';
import { linesRowShape } from './lines-row';

/** The most rows a signal may have. */
export const mostRows = 20;

/** Steps a signal may be aligned to: 1 minute to 12 hours, a day or a week of the reader's calendar, or `auto`, which follows range and width. */
const fixedStep = z
  .string()
  .max(20)
  .refine((text) => isStep(text), {
    error: 'Give an ISO 8601 duration from PT1M to PT12H, such as PT5M, or P1D or P7D.'
  });

const rowName = z
  .string()
  .regex(/^[A-Za-z][A-Za-z0-9_]{0,39}$/, { error: 'A row is named by a letter, then letters, digits or _.' });

const labelName = z.string().min(1).max(120);

/** How several series become one for each group of labels; `by` empty combines all. */
export const combineSchema = z.strictObject({
  statistic: z.enum(['sum', 'avg', 'min', 'max', 'count', 'median', 'p75', 'p90', 'p95', 'p99', 'p99.9', 'stddev']),
  by: z.array(labelName).max(8)
});
export type Combine = z.infer<typeof combineSchema>;

/** A row that picks series: of a metric, or of several by a pattern with `*`; each brought onto the grid by a statistic. */
export const pickSchema = z.strictObject({
  name: rowName,
  metric: z.string().min(1).max(200),
  where: z.array(labelConditionSchema).max(12).default([]),
  statistic: z.enum(statistics),
  combine: combineSchema.optional()
});
export type SignalPick = z.infer<typeof pickSchema>;

/** A row computed from others by a formula. */
export const formulaRowSchema = z.strictObject({ name: rowName, formula: z.string().max(4000) });
export type FormulaRow = z.infer<typeof formulaRowSchema>;

/** A row that counts lines of logs, or takes a numeric field of them, cell by cell. */
export const linesRowSchema = z.strictObject({ name: rowName, ...linesRowShape });
export type LinesRow = z.infer<typeof linesRowSchema>;

export type Row = SignalPick | LinesRow | FormulaRow;

/** The highest or lowest few of what is shown, by a figure over the whole range; the rest left out or folded into one. */
export const limitSchema = z.strictObject({
  keep: z.int().min(1).max(500),
  order: z.enum(['highest', 'lowest']),
  by: z.enum(['avg', 'max', 'min', 'last', 'sum']),
  rest: z.enum(['leave out', 'sum', 'avg'])
});
export type Limit = z.infer<typeof limitSchema>;

const isPick = (row: Row): row is SignalPick => 'metric' in row;

/** Whether a row is of lines. */
export const isOfLines = (row: Row): row is LinesRow => 'lines' in row;

/** Whether a row is computed from others. */
export const isFormula = (row: Row): row is FormulaRow => 'formula' in row;

/**
 * A signal: which series, brought onto which grid, how they are combined and computed, and which rows are shown. Panels, alarms, tables, exports and the API all hold
 * one.
 *
 * @example
 * signalSchema.parse({ version: 2, step: 'PT1M', rows: [
 *   { name: 'a', metric: 'machine.processor.use', where: [{ label: 'account', is: ['corallo-prod'] }], statistic: 'avg' }] })
 */
export const signalSchema = z
  .strictObject({
    version: z.literal(2),
    rows: z
      .array(
        z.union([pickSchema, linesRowSchema, formulaRowSchema], {
          error: 'A row has a metric to pick, lines to count, or a formula.'
        })
      )
      .min(1)
      .max(mostRows),
    /** Names of the rows that are shown; the last one by default. */
    show: z.array(rowName).min(1).max(mostRows).optional(),
    step: z.union([z.literal('auto'), fixedStep]),
    limit: limitSchema.optional(),
    /** UCUM code of the unit to show in; the derived one by default. */
    unit: z.string().min(1).max(60).optional(),
    /** Digits after the point; as many as suit the value by default. */
    digits: z.int().min(0).max(9).optional()
  })
  .superRefine(({ rows, show }, context) => {
    const names = new Set<string>();
    for (const [index, { name }] of rows.entries()) {
      if (names.has(name))
        context.addIssue({ code: 'custom', message: `Two rows are named ${name}.`, path: ['rows', index, 'name'] });
      names.add(name);
    }
    for (const [index, name] of (show ?? []).entries())
      if (!names.has(name))
        context.addIssue({ code: 'custom', message: `There is no row ${name} to show.`, path: ['show', index] });
  });
export type Signal = z.infer<typeof signalSchema>;

/** How signals are stored. Those of version 1 were rewritten by a migration before they could be saved under a name. */
export const signalForm: StoredForm<Signal> = {
  what: 'The signal',
  version: 2,
  schema: signalSchema,
  upgrades: [(older) => older],
  ownsVersion: true
};

/** A signal whose series stay who they are as time goes on: a fixed step, one row shown, no limit. Alarms watch such ones, derived metrics store them. */
export const steadySignalSchema = signalSchema
  // A step that cannot be read has been refused before.
  .refine(({ step }) => step !== 'auto' && (!isStep(step) || durationFromText(step) < day), {
    error: 'Cells must have a fixed length below a day here: choose one instead of what suits the range.',
    path: ['step']
  })
  .refine((signal) => shownRows(signal).length === 1, {
    error: 'One row is wanted here: draw only that one.',
    path: ['show']
  })
  .refine(({ limit }) => limit === undefined, {
    error: 'Which series are highest depends on the range: all of them are wanted here.',
    path: ['limit']
  });

/** A signal of one pick, each series for itself. @example plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }).step // 'PT1M' */
export const plainSignal = ({
  metric,
  statistic,
  where = [],
  step = 'PT1M'
}: {
  readonly metric: string;
  readonly statistic: SignalPick['statistic'];
  readonly where?: SignalPick['where'];
  readonly step?: string;
}): Signal => ({ version: 2, rows: [{ name: 'a', metric, where, statistic }], step });

/** The pick of a signal that is nothing but one metric, each series for itself; null of any other. @example plainPick(signal)?.metric */
export function plainPick({ rows, step, limit }: Signal): SignalPick | null {
  const [only] = rows;
  return rows.length === 1 && only && isPick(only) && !only.combine && !limit && step !== 'auto' ? only : null;
}

/** {@link plainPick} of a signal known to be one. @throws Error when it is not */
export function requirePlainPick(signal: Signal): SignalPick {
  const pick = plainPick(signal);
  if (pick === null) throw new Error('requirePlainPick: the signal has several rows, combines, or follows the range');
  return pick;
}

/** The rows that pick series. @example picksOf(signal).map(({ metric }) => metric) // ['machine.processor.use'] */
export const picksOf = ({ rows }: Signal): SignalPick[] => rows.filter(isPick);

/** The rows that are of lines. @example linesOf(signal).map(({ lines }) => lines) // ['severity >= error'] */
export const linesOf = ({ rows }: Signal): LinesRow[] => rows.filter(isOfLines);

/** The rows that are read rather than computed from others. @example readRows(signal).map(({ name }) => name) // ['a', 'b'] */
export const readRows = ({ rows }: Pick<Signal, 'rows'>): (SignalPick | LinesRow)[] =>
  rows.flatMap((row) => (isFormula(row) ? [] : [row]));

/** Names of the rows that are shown. @example shownRows(signal) // ['share'] */
export const shownRows = ({ rows, show }: Signal): string[] => show ?? rows.slice(-1).map(({ name }) => name);

/** The signal's own step; null when it follows range and width. @example stepOf({ step: 'PT1M' }) // 60000 */
export const fixedStepOf = ({ step }: { readonly step: Signal['step'] }): Duration | null =>
  step === 'auto' ? null : durationFromText(step);

/** {@link fixedStepOf} of a signal known to have one. @throws Error when it follows the range */
export function stepOf(signal: { readonly step: Signal['step'] }): Duration {
  const step = fixedStepOf(signal);
  if (step === null) throw new Error('stepOf: the signal follows range and width');
  return step;
}

/** Whether a metric is one that a pick asks for: by its name, or by a pattern in which `*` stands for anything and `?` for one character. @example asksFor('queue.*', 'queue.depth') // true */
export const asksFor = (pattern: string, metric: string): boolean => pattern === metric || wildcard(pattern)(metric);

export { isPick };

function isStep(text: string): boolean {
  try {
    const step = durationFromText(text);
    return daysOf(step) !== null || (step >= 60_000 && step <= 43_200_000 && step % 60_000 === 0);
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}
