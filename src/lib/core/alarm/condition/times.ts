import { DateTime, IANAZone } from 'luxon';
import { z } from 'zod';
import { cellStart, type Grid } from '../../time';

const clockTime = z
  .string()
  .regex(/^([01]\d|2[0-3]):[0-5]\d$|^24:00$/, { error: 'Give a time of day from 00:00 to 24:00, such as 22:30.' });
const date = z.iso.date({ error: 'Give a date, such as 2026-12-24.' });

/**
 * Times of a calendar: what is given must all hold. Hours are those of the clock on the wall: 02:00 to 03:00 is twice as long on the day on which clocks are set back, and does not exist
 * on the day on which they are set forward. Hours that pass midnight belong to the day on which they begin.
 */
export const timesSchema = z
  .strictObject({
    /** 1 is Monday, 7 Sunday. */
    weekdays: z.array(z.int().min(1).max(7)).min(1).max(7).optional(),
    hours: z.strictObject({ from: clockTime, to: clockTime }).optional(),
    /** Spans of days, both included. */
    dates: z
      .array(z.strictObject({ from: date, to: date }))
      .min(1)
      .max(60)
      .optional()
  })
  .refine(({ weekdays, hours, dates }) => weekdays !== undefined || hours !== undefined || dates !== undefined, {
    error: 'Choose hours, weekdays or dates.'
  });
export type Times = z.infer<typeof timesSchema>;

const dayMs = 86_400_000;
const quarter = 900_000;

/**
 * Offsets of a zone from UTC at instants that are asked for mostly in order, in ms. Zones change their offset at quarters of an hour only, so one is looked up for each.
 *
 * @example zoneOffsets('UTC')(0) // 0
 */
export function zoneOffsets(zone: string): (at: number) => number {
  if (zone === 'UTC') return () => 0;
  const known = IANAZone.create(zone);
  let quarterKnown = NaN;
  let offset = 0;
  return (at) => {
    const of = Math.floor(at / quarter);
    if (of !== quarterKnown) {
      quarterKnown = of;
      offset = Math.round(known.offset(of * quarter) * 60_000);
    }
    return offset;
  };
}

/**
 * Which cells begin within one of several times: the position of the first that holds, -1 when none does.
 *
 * @example timesOfCells([{ hours: { from: '22:00', to: '06:00' } }], { start: 0, step: 3_600_000, count: 8 }, 'UTC')
 * // Int8Array [0, 0, 0, 0, 0, 0, -1, -1]
 */
export function timesOfCells(times: readonly Times[], grid: Grid, zone: string): Int8Array {
  const tests = times.map(testOf);
  const offsetAt = zoneOffsets(zone);
  const which = new Int8Array(grid.count).fill(-1);
  for (let i = 0; i < grid.count; i++) {
    const at = cellStart(grid, i);
    const local = at + offsetAt(at);
    const dayNumber = Math.floor(local / dayMs);
    const timeOfDay = local - dayNumber * dayMs;
    which[i] = tests.findIndex((test) => test(dayNumber, timeOfDay));
  }
  return which;
}

function testOf({ weekdays, hours, dates }: Times): (dayNumber: number, timeOfDay: number) => boolean {
  const [from, to] = hours ? [msOf(hours.from), msOf(hours.to)] : [0, dayMs];
  const spans = dates?.map((span) => [dayOf(span.from), dayOf(span.to)] as const);
  return (today, timeOfDay) => {
    const passesMidnight = to <= from;
    const isLate = passesMidnight && timeOfDay < to;
    if (passesMidnight ? timeOfDay < from && !isLate : timeOfDay < from || timeOfDay >= to) return false;
    const dayNumber = isLate ? today - 1 : today;
    if (weekdays && !weekdays.includes(weekdayOf(dayNumber))) return false;
    return spans === undefined || spans.some(([first, last]) => dayNumber >= first && dayNumber <= last);
  };
}

const msOf = (text: string): number => Number(text.slice(0, 2)) * 3_600_000 + Number(text.slice(3)) * 60_000;
const dayOf = (text: string): number => DateTime.fromISO(text, { zone: 'UTC' }).toMillis() / dayMs;
/** Day 0 was a Thursday. */
const weekdayOf = (dayNumber: number): number => ((((dayNumber + 3) % 7) + 7) % 7) + 1;

/** Times in words. @example timesText({ weekdays: [6, 7], hours: { from: '22:00', to: '06:00' } }) // 'Sat and Sun, 22:00 to 06:00' */
export function timesText({ weekdays, hours, dates }: Times): string {
  const parts = [
    ...(weekdays ? [weekdaysText(weekdays)] : []),
    ...(dates ? [dates.map(({ from, to }) => (from === to ? from : `${from} to ${to}`)).join(' and ')] : []),
    ...(hours ? [`${hours.from} to ${hours.to}`] : [])
  ];
  return parts.join(', ');
}

const dayNames = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
function weekdaysText(weekdays: readonly number[]): string {
  const sorted = [...new Set(weekdays)].sort((a, b) => a - b);
  const first = sorted[0] as number;
  const last = sorted.at(-1) as number;
  const isRun = sorted.length > 2 && last - first === sorted.length - 1;
  const names = sorted.map((number) => dayNames[number - 1] as string);
  if (isRun) return `${names[0]} to ${names.at(-1)}`;
  return names.length === 1 ? (names[0] as string) : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}
