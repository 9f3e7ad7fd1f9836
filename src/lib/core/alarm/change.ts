import { z } from 'zod';
import { idSchema } from '../forms/id';
import { alarmSchema, alarmShape, type AlarmDefinition } from './schema';
import { severities } from './severity';

/** What is changed of several alarms at once; what is not named stays. */
export const alarmChangeSchema = z
  .strictObject({
    severity: z.enum(severities).optional(),
    owner: alarmShape.owner.unwrap().optional(),
    enabled: z.boolean().optional(),
    /** Values of labels; an empty one takes the label away. */
    labels: z.record(z.string().trim().min(1).max(60), z.string().trim().max(120)).optional(),
    /** Null for the list of routes. */
    route: idSchema.nullable().optional()
  })
  .refine((change) => Object.values(change).some((value) => value !== undefined), {
    error: 'Say what is to be changed.'
  });
export type AlarmChange = z.infer<typeof alarmChangeSchema>;

/**
 * An alarm after a change that is made to several.
 *
 * @returns why it cannot be changed so, in words, where it cannot
 * @example changedAlarm(alarm, { owner: 'Data stores' }) // { ...alarm, owner: 'Data stores' }
 */
export function changedAlarm(alarm: AlarmDefinition, change: AlarmChange): AlarmDefinition | string {
  const { severity, owner, enabled, labels, route } = change;
  const [level] = alarm.rule.levels;
  if (severity !== undefined && (alarm.rule.levels.length > 1 || !level))
    return 'It has several severities: change them on its own page.';
  const changed = {
    ...alarm,
    ...(owner !== undefined && { owner }),
    ...(enabled !== undefined && { enabled }),
    labels: Object.fromEntries(Object.entries({ ...alarm.labels, ...labels }).filter(([, value]) => value !== '')),
    ...(route !== undefined && { route }),
    rule: severity !== undefined && level ? { ...alarm.rule, levels: [{ ...level, severity }] } : alarm.rule
  };
  const read = alarmSchema.safeParse(changed);
  return read.success ? read.data : (read.error.issues[0]?.message ?? 'It cannot be changed so.');
}
