import { z } from 'zod';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { dateAt, firstInstantAt, isZone, type Instant } from '../time';
import { lastWhole, periodWith, summaryKinds } from './period';

/** Channels that one summary is sent to at most. */
const mostChannels = 20;

/**
 * A summary that is sent regularly: what of, to whom, and at which time of day, once its week or month is over.
 *
 * @example summaryPlanSchema.parse({ name: 'Week for the harbour', kind: 'week', at: '08:00', zone: 'Europe/Rome', channels: [4] }).enabled // true
 */
export const summaryPlanSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the summary a name.' }).max(120),
  enabled: z.boolean().default(true),
  kind: z.enum(summaryKinds),
  /** Time of day, on the Monday or the first of the month that follows. */
  at: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, { error: 'Give a time, such as 08:00.' }),
  zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' }),
  channels: z
    .array(idSchema)
    .min(1, { error: 'Choose at least one channel.' })
    .max(mostChannels, { error: `${mostChannels} channels at most.` })
    .refine((ids) => new Set(ids).size === ids.length, { error: 'Each channel once.' })
});
export type SummaryPlan = z.infer<typeof summaryPlanSchema>;

export const summaryPlanForm: StoredForm<SummaryPlan> = {
  ...{ what: 'The summary', version: 1, schema: summaryPlanSchema, upgrades: [] }
};

/**
 * When a summary is sent next: at its time on the first day after a week or month, later than an instant. On a day whose clocks skip that time, as soon as it is over.
 *
 * @example nextSending({ kind: 'week', at: '08:00', zone: 'UTC' }, at) // the next Monday, 08:00 UTC
 */
export function nextSending({ kind, at, zone }: Pick<SummaryPlan, 'kind' | 'at' | 'zone'>, after: Instant): Instant {
  const current = periodWith(kind, dateAt(after, zone), zone);
  const today = firstInstantAt(dateAt(current.from, zone), at, zone);
  if (today > after) return today;
  return firstInstantAt(dateAt(current.to, zone), at, zone);
}

/** Of what a summary is that is sent at an instant: what was over by then. */
export const periodSent = ({ kind, zone }: Pick<SummaryPlan, 'kind' | 'zone'>, at: Instant) =>
  lastWhole(kind, at, zone);

/** When it is sent, in words. @example planWords({ kind: 'month', at: '08:00', zone: 'UTC' }) // 'on the first of each month at 08:00 (UTC)' */
export const planWords = ({ kind, at, zone }: Pick<SummaryPlan, 'kind' | 'at' | 'zone'>): string =>
  `${kind === 'week' ? 'each Monday' : 'on the first of each month'} at ${at} (${zone})`;
