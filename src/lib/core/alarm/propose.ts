import type { Condition, ConditionData } from './condition';
import { rehearsalFigures, type KnownPeriod } from './figures';
import { rehearse, type Rehearsal } from './rehearse';
import type { EvaluationWindow, Level, Rule } from './schema';
import { severities, severityBalls } from './severity';
import type { Range } from '../time';

/** What an alarm could be changed to, with what it would have done then. */
export interface Proposal {
  readonly what: 'limit' | 'window' | 'levels';
  readonly rule: Rule;
  readonly count: number;
  readonly flapping: number;
  /** Known incidents that it would miss. */
  readonly missed: number;
}

/** What is rehearsed to find a proposal. */
export interface Rehearsed {
  readonly data: ConditionData;
  readonly seriesIds: readonly number[];
  readonly first: number;
  readonly span: Range;
  readonly known: readonly KnownPeriod[];
}

/**
 * The number that makes a condition stricter or laxer, and which way is stricter.
 *
 * @returns null for a condition that has no such number, as absence has none
 */
export function knobOf(condition: Condition): { readonly value: number; readonly stricter: 1 | -1 } | null {
  switch (condition.kind) {
    case 'threshold':
      if (!('limit' in condition)) return null;
      return { value: condition.limit, stricter: condition.is === 'above' ? 1 : -1 };
    case 'band':
      return { value: condition.widths, stricter: 1 };
    case 'change':
    case 'rank':
      return { value: condition.by, stricter: 1 };
    case 'forecast':
    case 'absence':
    case 'combined':
      return null;
    default:
      throw new RangeError(`knobOf: no kind "${String(condition satisfies never)}"`);
  }
}

/** A condition with another number; a clearing bound keeps its distance. */
export function withKnob(condition: Condition, value: number): Condition {
  if (condition.kind === 'threshold' && 'limit' in condition)
    return {
      ...condition,
      limit: value,
      ...(condition.clear !== undefined && { clear: condition.clear + value - condition.limit })
    };
  if (condition.kind === 'band')
    return {
      ...condition,
      widths: value,
      ...(condition.clear !== undefined && { clear: Math.min(condition.clear, value) })
    };
  if (condition.kind === 'change' || condition.kind === 'rank') return { ...condition, by: value };
  return condition;
}

/** The search for a proposal, which pauses before each try: a try replays the whole history. It ends with what was found. */
export type Tries = Generator<undefined, Proposal | null, void>;

/** Rehearsals that the search for a limit takes at most. */
const mostTries = 24;

/**
 * The least strict limit with which an alarm of one level would have been raised at most so often a week, by halving between the present one and one that is never reached.
 *
 * @returns null when the present one does already, or none was found
 */
export function* proposeLimit(rule: Rule, rehearsed: Rehearsed, perWeek: number): Tries {
  const [level] = rule.levels;
  const knob = level && rule.levels.length === 1 ? knobOf(level.condition) : null;
  if (!level || !knob || figuresOf(rule, rehearsed).perWeek <= perWeek) return null;
  const ruleWith = (value: number): Rule => ({
    ...rule,
    levels: [{ ...level, condition: withKnob(level.condition, value) }]
  });
  const isCalm = (value: number) => figuresOf(ruleWith(value), rehearsed).perWeek <= perWeek;
  let [lax, strict] = [knob.value, farthest(rule, rehearsed, knob)];
  if (!isCalm(strict)) return null;
  for (let i = 0; i < mostTries; i++) {
    const middle = rounded((lax + strict) / 2, Math.abs(strict - lax));
    if (middle === lax || middle === strict) break;
    yield;
    if (isCalm(middle)) strict = middle;
    else lax = middle;
  }
  return proposal('limit', ruleWith(strict), rehearsed);
}

/** Windows from short to long. */
const windows: readonly EvaluationWindow[] = [
  [1, 1],
  [2, 2],
  [2, 3],
  [3, 3],
  [3, 5],
  [4, 5],
  [5, 5],
  [6, 8],
  [8, 10],
  [10, 10],
  [12, 15],
  [15, 20],
  [25, 30]
].map(([needs, of]) => ({ needs: needs as number, of: of as number }));

/** The shortest window, longer than the present one, with which no series would have flapped and no known incident more would have been missed; null when it does not flap, or there is none. */
export function* proposeWindow(rule: Rule, rehearsed: Rehearsed): Tries {
  const now = figuresOf(rule, rehearsed);
  if (now.flapping === 0) return null;
  for (const window of windows) {
    if (window.needs <= rule.window.needs) continue;
    yield;
    const other = { ...rule, window };
    const figures = figuresOf(other, rehearsed);
    if (figures.flapping === 0 && figures.count > 0 && figures.missed.length <= now.missed.length)
      return proposal('window', other, rehearsed);
  }
  return null;
}

/** How far a limit is moved back, as a part of its distance from what is usual, until all incidents of its severity are found. */
const stepsBack = [0.02, 0.05, 0.1, 0.2, 0.35, 0.5] as const;

/**
 * The severities of past incidents, each with the strictest limit by which all incidents that were as grave are found: of an alarm on one threshold.
 *
 * @returns null when nothing is known, when incidents of a graver severity are not farther out than milder ones, or when it is so already
 */
export function* proposeLevels(rule: Rule, rehearsed: Rehearsed): Tries {
  const condition = rule.levels[0]?.condition;
  const knob = condition?.kind === 'threshold' ? knobOf(condition) : null;
  if (!condition || !knob) return null;
  const usual = usualOf(rehearsed);
  const grave = severities.filter((severity) => rehearsed.known.some((one) => one.severity === severity));
  const levels: Level[] = [];
  for (const severity of grave) {
    const as = rehearsed.known.filter((one) => severityBalls(one.severity) >= severityBalls(severity));
    const reached =
      Math.min(...as.map((one) => farthestIn(one, rehearsed, knob.stricter) * knob.stricter)) * knob.stricter;
    if (!Number.isFinite(reached) || (reached - usual) * knob.stricter <= 0) return null;
    let found: Level | null = null;
    for (const back of stepsBack) {
      yield;
      const distance = Math.abs(reached - usual);
      const limit = rounded(reached - back * distance * knob.stricter, distance);
      const level = { severity, condition: withKnob(condition, limit) };
      const only = { ...rehearsed, known: as };
      if (figuresOf({ ...rule, levels: [level] }, only).missed.length > 0) continue;
      found = level;
      break;
    }
    if (found === null) return null;
    const [before, now] = [levels.at(-1), found].map((one) => one && (knobOf(one.condition)?.value ?? NaN));
    if (before !== undefined && ((now ?? NaN) - before) * knob.stricter <= 0) return null;
    levels.push(found);
  }
  const isSame = JSON.stringify(levels) === JSON.stringify(rule.levels);
  return levels.length === 0 || isSame ? null : proposal('levels', { ...rule, levels }, rehearsed);
}

/** The median of all values. */
function usualOf({ data: { columns } }: Rehearsed): number {
  const all = columns.map((column) => Float64Array.from(column).filter((value) => !Number.isNaN(value)));
  const joined = new Float64Array(all.reduce((sum, { length }) => sum + length, 0));
  let place = 0;
  for (const one of all) {
    joined.set(one, place);
    place += one.length;
  }
  joined.sort();
  return joined[Math.floor(joined.length / 2)] ?? NaN;
}

/** The value farthest out during an incident, on the side on which conditions are stricter; NaN where there is none. */
function farthestIn({ from, to }: KnownPeriod, { data: { columns, grid }, span }: Rehearsed, side: 1 | -1): number {
  const first = Math.max(0, Math.floor((from - grid.start) / grid.step) - 1);
  const end = Math.ceil(((to ?? span.to) - grid.start) / grid.step);
  let far = NaN;
  for (const column of columns)
    for (let i = first; i < Math.min(column.length, end); i++) {
      const value = column[i] as number;
      if (value === value && !((value - far) * side <= 0)) far = value;
    }
  return far;
}

const rehearsalOf = (rule: Rule, { data, seriesIds, first }: Rehearsed): Rehearsal =>
  rehearse(data, seriesIds, rule, first);
const figuresOf = (rule: Rule, rehearsed: Rehearsed) =>
  rehearsalFigures(rehearsalOf(rule, rehearsed).periods, rehearsed.span, 'UTC', rehearsed.known);

function proposal(what: Proposal['what'], rule: Rule, rehearsed: Rehearsed): Proposal {
  const { count, flapping, missed } = figuresOf(rule, rehearsed);
  return { what, rule, count, flapping, missed: missed.length };
}

/** A number that is never reached, or far out. */
function farthest(rule: Rule, { data }: Rehearsed, { value, stricter }: { value: number; stricter: 1 | -1 }): number {
  if (rule.levels[0]?.condition.kind !== 'threshold') return value * 16;
  let far = value;
  for (const column of data.columns)
    for (let i = 0; i < column.length; i++) {
      const one = column[i] as number;
      if ((one - far) * stricter > 0) far = one;
    }
  return far;
}

/** A number that people would type, to about a twentieth of a distance. */
function rounded(value: number, distance: number): number {
  const unit = 10 ** Math.floor(Math.log10(Math.max(distance, Number.MIN_VALUE) / 10));
  return Number((Math.round(value / unit) * unit).toPrecision(12));
}
