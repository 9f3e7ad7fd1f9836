import {
  gravestLevel,
  preflight,
  serviceOfAlarm,
  type AlarmDefinition,
  type PreflightCheck,
  type RehearsalAnswer
} from '$lib/core/alarm';
import { reachOf } from '$lib/core/notify/route';
import type { Context } from '../db/context';
import { alarmChoices } from './draft';

/**
 * The checks that an alarm passes before it is trusted. It need not be saved.
 *
 * @param id of the alarm that it replaces; null for a new one
 * @param rehearsal what it would have done; null where that cannot be told
 */
export async function preflightAlarm(
  { db, clock }: Pick<Context, 'db' | 'clock'>,
  alarm: AlarmDefinition,
  id: number | null,
  rehearsal: RehearsalAnswer | null
): Promise<PreflightCheck[]> {
  const { metrics, routing, alarms } = await alarmChoices({ db });
  const reach = (of: AlarmDefinition) =>
    reachOf({ ...of, severity: gravestLevel(of.rule).severity, service: serviceOfAlarm(of, metrics) }, routing);
  return preflight(alarm, { metrics, reachOf: reach, alarms, id, rehearsal, now: clock.now() });
}
