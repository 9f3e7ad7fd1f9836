import { z } from 'zod';
import { severities, severityBalls, type Severity } from '../alarm/severity';
import { wildcard } from '../pattern';
import { conversion, limitText } from '../units';

export const finite = z.number().refine(Number.isFinite, { error: 'Give a number.' });

const grave = { severity: z.enum(severities), text: z.string().trim().max(60).optional() };

/** How a value stands to a limit that it reaches. */
export const comparisons = ['above', 'below', 'equal'] as const;

/** A labelled limit at a value, as grave as a severity; reached by what is above it unless it says otherwise. */
export const boundSchema = z.strictObject({ value: finite, is: z.enum(comparisons).optional(), ...grave });
export type Bound = z.infer<typeof boundSchema>;

/** What marks a figure: its value, or the name of what it is of by a pattern with `*` and `?`. */
export const cellLimitSchema = z.union(
  [boundSchema, z.strictObject({ matches: z.string().trim().min(1).max(200), ...grave })],
  { error: 'Give a value that is compared, or a pattern that names match.' }
);
export type CellLimit = z.infer<typeof cellLimitSchema>;

/** Two numbers this close, as a share of the larger, are equal: limits are typed, values are computed. */
const closeEnough = 1e-9;

/**
 * Whether a figure reaches a limit. A gap reaches none, but its name may.
 *
 * @example reaches({ value: 80, is: 'above', severity: 'major' }, 81, 'booking-web-1') // true
 */
export function reaches(limit: CellLimit, value: number, name: string): boolean {
  if ('matches' in limit) return wildcard(limit.matches)(name);
  if (Number.isNaN(value)) return false;
  const isEqual = Math.abs(value - limit.value) <= closeEnough * Math.max(Math.abs(value), Math.abs(limit.value));
  switch (limit.is ?? 'above') {
    case 'above':
      return value > limit.value && !isEqual;
    case 'below':
      return value < limit.value && !isEqual;
    case 'equal':
      return isEqual;
    default:
      throw new TypeError(`reaches: unknown comparison ${String(limit.is)}`);
  }
}

/** The gravest limit that a figure reaches; of equally grave ones the first. @example reached([], 5, 'a') // null */
export const reached = (limits: readonly CellLimit[] | undefined, value: number, name: string): CellLimit | null =>
  (limits ?? [])
    .filter((limit) => reaches(limit, value, name))
    .reduce<CellLimit | null>(
      (gravest, one) => (gravest !== null && balls(gravest.severity) >= balls(one.severity) ? gravest : one),
      null
    );

const balls = (severity: Severity): number => severityBalls(severity);

/** @param unit UCUM code of the value @example limitWords({ value: 80, severity: 'major' }, '%') // 'above 80 %' */
export function limitWords(limit: CellLimit, unit: string): string {
  if (limit.text !== undefined && limit.text !== '') return limit.text;
  if ('matches' in limit) return `named ${limit.matches}`;
  const value = limitText(limit.value, unit);
  return limit.is === 'equal' ? `equal to ${value}` : `${limit.is ?? 'above'} ${value}`;
}

/**
 * Limits as they are in another unit, so that they stay where they were when numbers are shown in it; those that cannot be converted stay as they are.
 *
 * @example limitsIn([{ value: 5_000_000, severity: 'major' }], 'By', 'MBy') // [{ value: 5, severity: 'major' }]
 */
export function limitsIn(limits: readonly CellLimit[], from: string, to: string): CellLimit[] {
  const converted = conversion(from, to);
  return limits.map((limit) =>
    'value' in limit && converted.kind === 'unit'
      ? { ...limit, value: limit.value * converted.scale + converted.offset }
      : limit
  );
}
