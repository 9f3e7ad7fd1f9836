import { z } from 'zod';
import { severities } from '../alarm/severity';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { weeklyHoursSchema } from '../rota';
import { isZone } from '../time';
import { actionSchema, actionText, timesText, type Action } from './action';

/** What keeps a response from doing harm. */
const limitsSchema = z.strictObject({
  /** On one resource, in any hour. */
  mostPerHour: z.int({ error: 'Give how often in an hour.' }).min(1, { error: 'At least once.' }).max(60),
  /** It does nothing with a resource for so long after something was done with it, by whomever. */
  restMinutes: z
    .int({ error: 'Give whole minutes.' })
    .min(1, { error: 'It pauses for a minute at least.' })
    .max(7 * 24 * 60),
  /** Of a group, only one in so many at a time. */
  group: z
    .strictObject({
      groupId: idSchema,
      oneIn: z.int({ error: 'Give one in how many.' }).min(1, { error: 'One in one at most.' }).max(1000)
    })
    .nullable(),
  /** Hours at which it does nothing. */
  notIn: z
    .strictObject({
      hours: weeklyHoursSchema,
      zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' })
    })
    .nullable(),
  duringMaintenance: z.boolean(),
  /** It stops after so many failures on end: one that did not help is one as well. */
  failuresToStop: z.int({ error: 'Give after how many failures.' }).min(1).max(20)
});
export type ResponseLimits = z.infer<typeof limitsSchema>;

/** Once an hour, a third of a group, never during maintenance, two failures. */
export const usualLimits: ResponseLimits = {
  ...{ mostPerHour: 1, restMinutes: 60, group: null, notIn: null, duringMaintenance: false, failuresToStop: 2 }
};
/** The share of a group that is proposed: a third. */
export const usualOneIn = 3;

/** How long after it was done it is watched whether what raised it is clear. */
export const watchedMinutes = 15;

/**
 * Something that is done when an alarm has been raised for a while.
 *
 * @example
 * responseSchema.parse({ name: 'Restart web machines', alarmId: 4, from: 'critical', heldMinutes: 10, action: { kind: 'restart' }, limits: usualLimits }).enabled // true
 */
export const responseSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the response a name.' }).max(120),
  enabled: z.boolean().default(true),
  alarmId: idSchema,
  /** Of this severity and graver. */
  from: z.enum(severities),
  /** How long it has been raised. */
  heldMinutes: z
    .int({ error: 'Give whole minutes.' })
    .min(0, { error: 'At least 0 minutes.' })
    .max(24 * 60, { error: 'At most a day.' }),
  action: actionSchema,
  limits: limitsSchema
});
export type AutoResponse = z.infer<typeof responseSchema>;

/** How a response is stored. */
export const responseForm: StoredForm<AutoResponse> = {
  what: 'The response',
  version: 1,
  schema: responseSchema,
  upgrades: []
};

/** What a response does and when, in one sentence. @example responseSentence(response) // 'When raised critical for 10 min: restart it; once an hour at most, 60 min apart at least.' */
export function responseSentence(
  { from, heldMinutes, action, limits }: Pick<AutoResponse, 'from' | 'heldMinutes' | 'limits'> & { action: Action },
  channelName?: (id: number) => string
): string {
  const grave = from === 'critical' ? from : `${from} or graver`;
  const when = heldMinutes === 0 ? `As soon as it is raised ${grave}` : `When raised ${grave} for ${heldMinutes} min`;
  return `${when}: ${actionText(action, channelName)}; ${timesText(limits.mostPerHour)} an hour at most, ${limits.restMinutes} min apart at least.`;
}
