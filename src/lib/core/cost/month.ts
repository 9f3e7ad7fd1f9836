import { dateOf, dayOf, type DayNumber } from './bill';

/** A month of the calendar. */
export interface Month {
  /** Such as `2026-11`. */
  readonly name: string;
  readonly from: DayNumber;
  /** The first day of the next one. */
  readonly to: DayNumber;
}

/** @throws RangeError for what is no month @example monthOf('2026-02').to - monthOf('2026-02').from // 28 */
export function monthOf(name: string): Month {
  const found = /^(\d{4})-(0[1-9]|1[0-2])$/.exec(name);
  if (found === null) throw new RangeError(`monthOf: ${JSON.stringify(name)} is not a month such as 2026-11`);
  const next = new Date(Date.UTC(Number(found[1]), Number(found[2]), 1)).toISOString().slice(0, 7);
  return { name, from: dayOf(`${name}-01`), to: dayOf(`${next}-01`) };
}

/** The month that a day is in. */
export const monthAt = (day: DayNumber): Month => monthOf(dateOf(day).slice(0, 7));

/** The month so many months later, or before. @example monthAfter(monthOf('2026-01'), -1).name // '2025-12' */
export function monthAfter({ name }: Month, months: number): Month {
  const [year, month] = name.split('-').map(Number) as [number, number];
  return monthOf(new Date(Date.UTC(year, month - 1 + months, 1)).toISOString().slice(0, 7));
}
