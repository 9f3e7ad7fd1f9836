import { preflight, type AlarmDefinition, type PreflightCheck, type RehearsalAnswer } from '$lib/core/alarm';
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
  const { metrics, channels, alarms } = await alarmChoices({ db });
  return preflight(alarm, { metrics, channels, alarms, id, rehearsal, now: clock.now() });
}
