import { z } from 'zod';
import { severities, severityBalls, type Severity } from '../alarm';
import { dateAfter, dateAt, firstInstantAt, weekdayOf, type Instant } from '../time';
import { weeklyHoursSchema } from '../rota';
import type { StoredForm } from '../forms/stored';

/** Hours at which somebody is not disturbed, but for what is grave enough, and never while they have the watch. */
export const quietSchema = z.strictObject({
  hours: weeklyHoursSchema,
  /** From this severity on they are disturbed all the same; null for none. */
  exceptFrom: z.enum(severities).nullable()
});
export type Quiet = z.infer<typeof quietSchema>;

/** How quiet hours are stored. */
export const quietForm: StoredForm<Quiet> = { what: 'Quiet hours', version: 1, schema: quietSchema, upgrades: [] };

/**
 * When somebody may be disturbed again.
 *
 * @param zone of the person
 * @returns null when they may be now: outside the hours, or by something so grave
 * @example quietUntil({ hours: { weekdays: [1, 2, 3, 4, 5], from: '22:00', to: '07:00' }, exceptFrom: 'critical' }, 'Europe/Rome', 'minor', at)
 */
export function quietUntil(quiet: Quiet | null, zone: string, severity: Severity | null, at: Instant): Instant | null {
  if (quiet === null) return null;
  if (severity !== null && quiet.exceptFrom !== null && severityBalls(severity) >= severityBalls(quiet.exceptFrom))
    return null;
  const end = endOfHours(quiet, zone, at);
  if (end === null) return null;
  // What follows without a pause belongs to it, but nobody is left alone for more than a week.
  let until = end;
  for (let days = 0; days < 7; days++) {
    const next = endOfHours(quiet, zone, until);
    if (next === null) break;
    until = next;
  }
  return until;
}

/** The end of the hours that an instant is in; null when it is in none. */
function endOfHours({ hours: { weekdays, from, to } }: Quiet, zone: string, at: Instant): Instant | null {
  const today = dateAt(at, zone);
  for (const date of [today, dateAfter(today, -1)]) {
    if (!weekdays.includes(weekdayOf(date))) continue;
    const begins = firstInstantAt(date, from, zone);
    const ends = firstInstantAt(to > from ? date : dateAfter(date, 1), to, zone);
    if (begins <= at && at < ends) return ends;
  }
  return null;
}

/** Hours that are proposed to somebody who has none. */
export const usualQuiet: Quiet = {
  hours: { weekdays: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '07:00' },
  exceptFrom: 'critical'
};
