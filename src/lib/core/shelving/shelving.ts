import { z } from 'zod';
import { severities } from '../alarm';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { lackedFor, type RoutedIncident } from '../notify/route';
import { isZone, type Instant } from '../time';
import { recurrenceProblem } from './recurrence';

const names = z.array(z.string().min(1).max(200)).max(50).default([]);
const moment = z
  .int()
  .min(0)
  .max(7_258_118_400_000)
  .transform((ms) => ms as Instant);

/** What is silenced: all that is given must hold, and something has to be given. */
export const scopeSchema = z
  .strictObject({
    alarmIds: z.array(idSchema).max(50).default([]),
    /** Names of resources, in whichever account. */
    resources: names,
    services: names,
    accounts: names,
    groupIds: z.array(idSchema).max(50).default([]),
    labels: z
      .array(z.strictObject({ label: z.string().min(1).max(100), is: z.array(z.string().max(200)).min(1).max(50) }))
      .max(10)
      .default([]),
    severities: z.array(z.enum(severities)).max(severities.length).default([])
  })
  .refine(
    ({ alarmIds, resources, services, accounts, groupIds, labels }) =>
      [alarmIds, resources, services, accounts, groupIds, labels].some((part) => part.length > 0),
    { error: 'Choose what is shelved: an alarm, a resource, a service, an account, a group or a label.' }
  );
export type Scope = z.infer<typeof scopeSchema>;

/** The longest that something is silenced without an end to be seen, ms: 30 days. */
export const longestShelving = 30 * 86_400_000;

/** Messages that are held back for a time. */
export const shelvingSchema = z
  .strictObject({
    /** Shelved by somebody who knows of it, or maintenance that was planned. */
    kind: z.enum(['shelved', 'maintenance']),
    reason: z.string().trim().min(1, { error: 'Say why: whoever has the next watch reads it.' }).max(300),
    scope: scopeSchema,
    from: moment,
    to: moment,
    /** A recurrence by RFC 5545, such as `FREQ=WEEKLY`; null for once. */
    recurs: z
      .string()
      .max(300)
      .nullable()
      .default(null)
      .superRefine((rule, context) => {
        const problem = rule === null ? null : recurrenceProblem(rule);
        if (problem !== null) context.addIssue({ code: 'custom', message: problem });
      }),
    /** By whose clocks it recurs. */
    zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' })
  })
  .refine(({ from, to }) => to > from, { path: ['to'], error: 'It ends before it begins.' })
  .refine(({ from, to }) => to - from <= longestShelving, { path: ['to'], error: 'Shelve for 30 days at most.' });
export type Shelving = z.infer<typeof shelvingSchema>;

/** How a shelving is stored. */
export const shelvingForm: StoredForm<Shelving> = {
  what: 'The shelving',
  version: 1,
  schema: shelvingSchema,
  upgrades: []
};

/**
 * Whether a shelving is about an incident, whenever it is in force.
 *
 * @example covers(scope, incident) // true
 */
export function covers({ alarmIds, resources, ...when }: Scope, incident: RoutedIncident): boolean {
  if (alarmIds.length > 0 && !alarmIds.includes(incident.alarmId)) return false;
  if (resources.length > 0 && !resources.includes(incident.resource)) return false;
  return lackedFor({ when: { ...when, times: null }, zone: 'UTC' }, incident, 0 as Instant).length === 0;
}
