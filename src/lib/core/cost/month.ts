import { dateOf, dayOf, type DayNumber } from './bill';

/** A month of the calendar. */
export interface Month {
  /** Such as `2026-11`. */
  readonly name: string;
  readonly from: DayNumber;
  /** The first day of the next one. */
  readonly to: DayNumber;
}

const pattern = /^(\d{4})-(0[1-9]|1[0-2])$/;
/** Years that bills can be of: beyond these, dates are written otherwise. */
const [firstYear, lastYear] = [1970, 9998];

/** Whether a text is a month, such as `2026-11`, of 1970 or later. @example isMonth('2026-13') // false */
export function isMonth(text: string): boolean {
  const year = Number(pattern.exec(text)?.[1]);
  return year >= firstYear && year <= lastYear;
}

/** @throws RangeError for what is no month @example monthOf('2026-02').to - monthOf('2026-02').from // 28 */
export function monthOf(name: string): Month {
  const found = pattern.exec(name);
  if (found === null || !isMonth(name))
    throw new RangeError(`monthOf: ${JSON.stringify(name)} is not a month such as 2026-11`);
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
