import type { AlarmDefinition } from '$lib/core/alarm';
import { groupBy } from '$lib/core/lists/group-by';
import { readableAlarm } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { eventRulesByIds } from '../events/event-rules';
import type { Incident } from '../incidents/incidents';

/** What raised an incident, as far as routes and messages ask: an alarm, or a rule by events. */
export interface Raiser {
  readonly name: string;
  /** The route that it names; null for the first of the list that takes it. */
  readonly route: number | null;
  readonly labels: Readonly<Record<string, string>>;
  readonly runbook: string;
  /** Null of what events raised. */
  readonly alarm: AlarmDefinition | null;
}

export const raiserOfAlarm = (alarm: AlarmDefinition): Raiser => {
  const { name, route, labels, runbook } = alarm;
  return { name, route, labels, runbook, alarm };
};

/** What raised incidents, by their ids; without those whose alarm is gone or cannot be read. */
export async function raisersOf(
  db: Queryable,
  incidents: readonly Pick<Incident, 'id' | 'alarmId' | 'eventRuleId'>[]
): Promise<ReadonlyMap<number, Raiser>> {
  const raisers = new Map<number, Raiser>();
  for (const [alarmId, own] of groupBy(incidents, (incident) => incident.alarmId)) {
    const alarm = alarmId === null ? null : await readableAlarm(db, alarmId);
    if (alarm !== null) for (const { id } of own) raisers.set(id, raiserOfAlarm(alarm.definition));
  }
  const rules = await eventRulesByIds(
    db,
    incidents.flatMap(({ eventRuleId }) => eventRuleId ?? [])
  );
  for (const { id, eventRuleId } of incidents) {
    const rule = rules.get(eventRuleId ?? 0)?.rule;
    if (rule === undefined) continue;
    const { name, route, labels, runbook } = rule;
    raisers.set(id, { name, route, labels, runbook, alarm: null });
  }
  return raisers;
}

/** What raised an incident; null where its alarm is gone or cannot be read. */
export const raiserOf = async (
  db: Queryable,
  incident: Pick<Incident, 'id' | 'alarmId' | 'eventRuleId'>
): Promise<Raiser | null> => (await raisersOf(db, [incident])).get(incident.id) ?? null;
