import { countOf } from '../../words/count';
import type { TextSpan } from '../../problem/problem';
import type { Formula } from '../../formula';
import { duration, earlier, longer, spokenDuration, type Grid } from '../../time';

type Call = Formula & { readonly kind: 'call' };

/** What a part of a function may be: something computed, a number as written, a length of time, or one of some words. */
type PartKind = 'rows' | 'number' | 'duration' | 'way of filling';

interface FunctionRow {
  readonly parts: readonly PartKind[];
  /** How many of the parts must be there; all by default. */
  readonly least?: number;
  /** Whether the last kind of part may come again. */
  readonly more?: boolean;
  readonly example: string;
}

/** The functions of formulas. */
export const functionRows: Readonly<Record<string, FunctionRow>> = {
  abs: { parts: ['rows'], example: 'abs(a)' },
  sqrt: { parts: ['rows'], example: 'sqrt(a)' },
  log: { parts: ['rows'], example: 'log(a)' },
  exp: { parts: ['rows'], example: 'exp(a)' },
  round: { parts: ['rows', 'number'], least: 1, example: 'round(a, 1)' },
  clamp: { parts: ['rows', 'rows', 'rows'], example: 'clamp(a, 0, 100)' },
  min: { parts: ['rows', 'rows'], more: true, example: 'min(a, b)' },
  max: { parts: ['rows', 'rows'], more: true, example: 'max(a, b)' },
  previous: { parts: ['rows', 'duration'], example: 'previous(a, 1 week)' },
  moving_avg: { parts: ['rows', 'duration'], example: 'moving_avg(a, 15 min)' },
  cumulate: { parts: ['rows'], example: 'cumulate(a)' },
  difference: { parts: ['rows'], example: 'difference(a)' },
  fill: { parts: ['rows', 'way of filling'], example: 'fill(a, 0)' }
};

/** How far `previous` reaches back, and how long a moving average may be. */
const furthest = duration(400 * 86_400_000);
const longestWindow = duration(14 * 86_400_000);

/** What is wrong with a call, with the place of it; null when nothing is. */
export function callProblem(call: Call): { message: string; remedy: string; at: TextSpan } | null {
  const row = Object.hasOwn(functionRows, call.name) ? functionRows[call.name] : undefined;
  if (!row)
    return {
      message: `There is no function ${call.name}.`,
      remedy: `Functions: ${Object.keys(functionRows).join(', ')}.`,
      at: [call.at[0], call.at[0] + call.name.length]
    };
  const remedy = `For example ${row.example}.`;
  const { parts } = call;
  if (parts.length < (row.least ?? row.parts.length) || (parts.length > row.parts.length && !row.more))
    return { message: `${call.name} takes ${spokenParts(row)}, not ${parts.length}.`, remedy, at: call.at };
  for (const [index, part] of parts.entries()) {
    const problem = partProblem(call.name, part, row.parts[Math.min(index, row.parts.length - 1)] as PartKind);
    if (problem !== null) return { message: problem, remedy, at: part.at };
  }
  return null;
}

function partProblem(name: string, part: Formula, kind: PartKind): string | null {
  if (kind === 'number')
    return part.kind === 'number' && Number.isInteger(part.value) && part.value <= 9
      ? null
      : `${name} takes a whole number from 0 to 9 of digits here.`;
  if (kind === 'way of filling') return fillingOf(part) === null ? `${name} takes 0, last or linear here.` : null;
  if (kind !== 'duration') return null;
  const most = name === 'previous' ? furthest : longestWindow;
  if (part.kind !== 'duration' || part.milliseconds < 1000)
    return `${name} takes a length of time here, such as 1 week or 15 min.`;
  return part.milliseconds > most ? `${name} takes at most ${spokenDuration(most)}.` : null;
}

const spokenParts = ({ parts, least = parts.length, more }: FunctionRow): string =>
  more
    ? `${least} parts or more`
    : least < parts.length
      ? `${least} or ${parts.length} parts`
      : countOf(parts.length, 'part');

export type Filling = 'zero' | 'last' | 'linear';

/** How `fill` fills. @example fillingOf({ kind: 'number', value: 0, at: [8, 9] }) // 'zero' */
export function fillingOf(part: Formula | undefined): Filling | null {
  if (part?.kind === 'number') return part.value === 0 ? 'zero' : null;
  return part?.kind === 'name' && (part.name === 'last' || part.name === 'linear') ? part.name : null;
}

/** The length of time of a call's second part, in ms. */
export const lengthIn = ({ parts: [, part] }: Call): number => (part?.kind === 'duration' ? part.milliseconds : 0);

/** How many cells a moving average looks at: at least one. @example windowCells(900_000, 60_000) // 15 */
export const windowCells = (length: number, step: number): number => Math.max(1, Math.round(length / step));

/**
 * The parts of a call that are computed, each with the grid it is wanted on.
 *
 * @throws RangeError when a grid would reach before 1970 or have too many cells
 */
export function gridsOfCall(call: Call, grid: Grid): [Formula, Grid][] {
  const [first, ...others] = call.parts;
  if (!first) return [];
  switch (call.name) {
    case 'previous':
      return [[first, earlier(grid, lengthIn(call))]];
    case 'moving_avg':
      return [[first, longer(grid, windowCells(lengthIn(call), grid.step) - 1)]];
    case 'difference':
      return [[first, longer(grid, 1)]];
    case 'fill':
    case 'round':
      return [[first, grid]];
    default:
      return [first, ...others].map((part) => [part, grid]);
  }
}
