import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { dateAfter, dateAt, firstInstantAt, isZone, weekdayOf, type Instant } from '../time';

/** How often the restoring of scheduled backups is rehearsed. */
const rehearsals = ['each', 'week', 'never'] as const;

/**
 * When backups are made, how many of them stay, and how often it is rehearsed that they can be restored.
 *
 * @example backupPlanSchema.parse({ enabled: true, every: 'day', weekday: 1, at: '02:30', zone: 'Europe/Rome', stay: 14, rehearse: 'week' }).at // '02:30'
 */
export const backupPlanSchema = z.strictObject({
  enabled: z.boolean(),
  every: z.enum(['day', 'week']),
  /** For one each week: 1 for Monday to 7 for Sunday. */
  weekday: z.int().min(1).max(7),
  at: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, { error: 'Give a time, such as 02:30.' }),
  zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' }),
  /** How many scheduled backups stay; older ones are removed. */
  stay: z
    .int({ error: 'Give a whole number.' })
    .min(1, { error: 'At least one stays.' })
    .max(400, { error: '400 at most.' }),
  rehearse: z.enum(rehearsals)
});
export type BackupPlan = z.infer<typeof backupPlanSchema>;

export const backupPlanForm: StoredForm<BackupPlan> = {
  ...{ what: 'The schedule of backups', version: 1, schema: backupPlanSchema, upgrades: [] }
};

/** What is offered where nothing is scheduled yet. */
export const usualPlan = (zone: string): BackupPlan => ({
  ...{ enabled: true, every: 'day', weekday: 7, at: '02:30', zone, stay: 14, rehearse: 'week' }
});

type When = Pick<BackupPlan, 'every' | 'weekday' | 'at' | 'zone'>;

/**
 * When the next backup is due, later than an instant. On a day whose clocks skip that time, as soon as it is over; where it comes twice, the first time.
 *
 * @example nextBackup({ every: 'day', weekday: 1, at: '02:30', zone: 'UTC' }, instant(0)) // 9000000
 */
export function nextBackup({ every, weekday, at, zone }: When, after: Instant): Instant {
  for (let date = dateAt(after, zone); ; date = dateAfter(date, 1)) {
    if (every === 'week' && weekdayOf(date) !== weekday) continue;
    const due = firstInstantAt(date, at, zone);
    if (due > after) return due;
  }
}

/** When the last backup was due, at an instant or before. @example lastDue({ every: 'day', weekday: 1, at: '02:30', zone: 'UTC' }, instant(9000000)) // 9000000 */
export function lastDue({ every, weekday, at, zone }: When, now: Instant): Instant {
  for (let date = dateAt(now, zone); ; date = dateAfter(date, -1)) {
    if (every === 'week' && weekdayOf(date) !== weekday) continue;
    const due = firstInstantAt(date, at, zone);
    if (due <= now) return due;
  }
}

const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** When backups are made, in words. @example backupPlanWords({ every: 'week', weekday: 7, at: '02:30', zone: 'UTC' }) // 'each Sunday at 02:30 (UTC)' */
export const backupPlanWords = ({ every, weekday, at, zone }: When): string =>
  `each ${every === 'day' ? 'day' : weekdays[weekday - 1]} at ${at} (${zone})`;
