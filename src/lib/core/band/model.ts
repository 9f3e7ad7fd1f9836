import type { Duration, Instant } from '../time';
import type { Transform } from './transform';

/** Which seasons a band found in its history. */
export type Season = 'week' | 'day' | 'none';

/**
 * What was learned of one series: how a day and a week usually go, how much it strays, and where it stands. All numbers are as the transform looks at them.
 */
export interface BandModel {
  readonly transform: Transform;
  /** Length of a slot of the day, ms; divides a day. */
  readonly slot: Duration;
  /** What each slot of the day adds to the level, from 00:00 UTC; empty without a season. */
  readonly day: Float64Array;
  /** What each hour of the week adds to that, from Monday 00:00 UTC; empty without a season of the week. */
  readonly week: Float64Array;
  /** One width downwards and upwards, for each hour of the day. */
  readonly below: Float64Array;
  readonly above: Float64Array;
  /** Where the series stood in the last day of the history, without its seasons. */
  readonly level: number;
  readonly season: Season;
  /** The history that was used: its end, and how many days of it had values. */
  readonly until: Instant;
  readonly days: number;
}

const dayMs = 86_400_000;
const hourMs = 3_600_000;
/** 1970 began on a Thursday. */
const mondayOffset = 3 * dayMs;

/** What the seasons add to the level at a moment. */
export function seasonAt({ slot, day, week }: Pick<BandModel, 'slot' | 'day' | 'week'>, at: number): number {
  const ofDay = day.length === 0 ? 0 : (day[Math.floor((at % dayMs) / slot)] as number);
  return week.length === 0 ? ofDay : ofDay + (week[Math.floor(((at + mondayOffset) % (7 * dayMs)) / hourMs)] as number);
}

/** The hour of the day of a moment, UTC. @example hourAt(3_600_000) // 1 */
export const hourAt = (at: number): number => Math.floor((at % dayMs) / hourMs);

/** The hour of the week of a moment, from Monday 00:00 UTC. @example hourOfWeekAt(0) // 72: a Thursday */
export const hourOfWeekAt = (at: number): number => Math.floor(((at + mondayOffset) % (7 * dayMs)) / hourMs);

/**
 * What the seasons add to the level at the beginning of each of several equal cells. Same as {@link seasonAt} of each, and many times faster: divisions of instants are slow.
 *
 * @param start of the first cell and the length of a cell, ms
 */
export function seasonColumn(
  seasons: Pick<BandModel, 'slot' | 'day' | 'week'>,
  start: number,
  step: number,
  count: number
): Float64Array {
  const column = new Float64Array(count);
  const { slot, day, week } = seasons;
  if (day.length === 0 && week.length === 0) return column;
  let ofDay = start % dayMs;
  let ofWeek = (start + mondayOffset) % (7 * dayMs);
  for (let i = 0; i < count; i++) {
    if (day.length > 0) column[i] = day[(ofDay / slot) | 0] as number;
    if (week.length > 0) column[i] = (column[i] as number) + (week[(ofWeek / hourMs) | 0] as number);
    ofDay += step;
    if (ofDay >= dayMs) ofDay -= dayMs;
    ofWeek += step;
    if (ofWeek >= 7 * dayMs) ofWeek -= 7 * dayMs;
  }
  return column;
}
