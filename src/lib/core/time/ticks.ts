import { DateTime } from 'luxon';
import type { Instant } from './instant';
import type { Range } from './range';

/** A place on a time axis that has a name. */
export interface Tick {
  readonly at: Instant;
  readonly text: string;
  /** Whether a new day begins there, on an axis of hours and minutes. */
  readonly isDay: boolean;
}

const [second, minute, hour, day] = [1_000, 60_000, 3_600_000, 86_400_000];

/** Distances between ticks that people read as round; days and more are of the calendar. */
const withinDay = [
  ...[1, 2, 5, 10, 15, 30].map((n) => n * second),
  ...[1, 2, 5, 10, 15, 30].map((n) => n * minute),
  ...[1, 2, 3, 6, 12].map((n) => n * hour)
];
const ofCalendar = [
  { ms: day, unit: 'day', every: 1 },
  { ms: 2 * day, unit: 'day', every: 2 },
  { ms: 7 * day, unit: 'week', every: 1 },
  { ms: 14 * day, unit: 'week', every: 2 },
  { ms: 31 * day, unit: 'month', every: 1 },
  { ms: 92 * day, unit: 'month', every: 3 },
  { ms: 184 * day, unit: 'month', every: 6 },
  { ms: 366 * day, unit: 'year', every: 1 }
] as const;

/**
 * The ticks of a time axis: on round times of the zone's clock alone, also on days with 23 and 25 hours, and never more than there is room for.
 *
 * @param most ticks that fit beside each other, from 1
 * @example timeTicks(range(at('06:10'), at('09:10')), 'UTC', 4).map(({ text }) => text) // ['07:00', '08:00', '09:00']
 */
export function timeTicks({ from, to }: Range, zone: string, most: number): Tick[] {
  const least = (to - from) / Math.max(1, most);
  const step = withinDay.find((ms) => ms >= least);
  const ticks = step === undefined ? calendarTicks(from, to, zone, least) : clockTicks(from, to, zone, step);
  return apart(ticks, least);
}

function clockTicks(from: number, to: number, zone: string, step: number): Tick[] {
  const ticks: Tick[] = [];
  let midnight = DateTime.fromMillis(from, { zone }).startOf('day');
  while (midnight.toMillis() <= to) {
    const next = midnight.plus({ days: 1 }).startOf('day');
    // Only what lies in the range: steps of a second would be many in a whole day.
    const first = Math.max(0, Math.floor((from - midnight.toMillis() - 2 * hour) / step));
    const last = Math.min(Math.ceil(day / step) - 1, Math.ceil((to - midnight.toMillis() + 2 * hour) / step));
    for (let n = first; n <= last; n++) {
      const wall = n * step;
      const at = midnight.set({
        hour: Math.floor(wall / hour),
        minute: Math.floor((wall % hour) / minute),
        second: Math.floor((wall % minute) / second)
      });
      const isThere = at.hour === Math.floor(wall / hour) && at.minute === Math.floor((wall % hour) / minute);
      // The first tick of a day may be later than midnight, where the clock is set forward at midnight.
      const isDay = n === 0;
      if ((isThere || isDay) && at.toMillis() >= from && at.toMillis() <= to && at < next)
        ticks.push({
          at: at.toMillis() as Instant,
          text: isDay ? at.toFormat('ccc d') : at.toFormat(step < minute ? 'HH:mm:ss' : 'HH:mm'),
          isDay
        });
    }
    midnight = next;
  }
  return ticks;
}

function calendarTicks(from: number, to: number, zone: string, least: number): Tick[] {
  const { unit, every } = ofCalendar.find(({ ms }) => ms >= least) ?? {
    unit: 'year' as const,
    every: Math.ceil(least / (366 * day))
  };
  const ticks: Tick[] = [];
  let at = firstOf(DateTime.fromMillis(from, { zone }).startOf(unit), unit, every);
  while (at.toMillis() <= to) {
    if (at.toMillis() >= from) ticks.push({ at: at.toMillis() as Instant, text: nameOf(at, unit), isDay: false });
    at = at.plus({ [`${unit}s`]: every }).startOf('day');
  }
  return ticks;
}

/** Ticks stand at the same places however the axis is moved: counted from a fixed Monday, or the year's beginning. */
function firstOf(at: DateTime, unit: 'day' | 'week' | 'month' | 'year', every: number): DateTime {
  if (every === 1) return at;
  if (unit === 'month') return at.minus({ months: (at.month - 1) % every });
  if (unit === 'year') return at.minus({ years: at.year % every });
  const monday = DateTime.fromObject({ year: 1970, month: 1, day: 5 }, { zone: at.zone });
  const over = Math.floor(at.diff(monday, `${unit}s`).as(`${unit}s`) + 0.5) % every;
  return at.minus({ [`${unit}s`]: over });
}

function nameOf(at: DateTime, unit: 'day' | 'week' | 'month' | 'year'): string {
  if (unit === 'day') return at.toFormat('ccc d');
  if (unit === 'week') return at.toFormat('d LLL');
  return unit === 'year' || at.month === 1 ? at.toFormat('yyyy') : at.toFormat('LLL');
}

/** Without those that would stand closer than there is room; the beginning of a day stays. */
function apart(ticks: readonly Tick[], least: number): Tick[] {
  const kept: Tick[] = [];
  for (const tick of ticks) {
    const last = kept.at(-1);
    if (last === undefined || tick.at - last.at >= least) kept.push(tick);
    else if (tick.isDay && !last.isDay) kept[kept.length - 1] = tick;
  }
  return kept;
}
