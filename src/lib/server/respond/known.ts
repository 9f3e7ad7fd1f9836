import { readableAlarm, type Alarm } from '../alarms/alarms';
import type { RoutedIncident } from '$lib/core/notify/route';
import type { Queryable } from '../db/pool';
import type { IncidentEvent } from '../incidents/events';
import { incidentsByIds, type Incident } from '../incidents/incidents';
import { resourcesByIds, type Resource } from '../inventory/resources';
import { routedOn, type RoutingTable } from './routing';
import { HeldThreads } from './threads';

/** What one transaction has read of the incidents that it handles. */
export interface Known {
  readonly incidents: ReadonlyMap<number, Incident>;
  /** Without those that are gone, and those that cannot be read. */
  readonly alarms: ReadonlyMap<number, Alarm>;
  readonly resources: ReadonlyMap<number, Resource>;
  readonly threads: HeldThreads;
}

/** Reads what there is to know of the incidents of some events, and locks none of it. */
export async function readKnown(within: Queryable, events: readonly IncidentEvent[]): Promise<Known> {
  const ids = [...new Set(events.flatMap(({ incidentId }) => incidentId ?? []))];
  const threads = await HeldThreads.ofIncidents(within, ids);
  const incidents = await incidentsByIds(within, ids);
  const resources = await resourcesByIds(
    within,
    incidents.flatMap(({ resourceId }) => resourceId ?? [])
  );
  const alarms = new Map<number, Alarm>();
  for (const id of new Set(incidents.flatMap(({ alarmId }) => alarmId ?? []))) {
    const alarm = await readableAlarm(within, id);
    if (alarm !== null) alarms.set(id, alarm);
  }
  return {
    incidents: new Map(incidents.map((incident) => [incident.id, incident])),
    ...{ alarms, threads },
    resources: new Map(resources.map((resource) => [resource.id, resource]))
  };
}

/** What routes look at of an incident of which an event says how severe it is. */
export function routedAt(table: RoutingTable, known: Known, incident: Incident, event: IncidentEvent): RoutedIncident {
  const resource = incident.resourceId === null ? undefined : known.resources.get(incident.resourceId);
  const severity = event.severity ?? incident.severity;
  return routedOn(table, incident, alarmOf(known, incident)?.definition ?? null, severity, resource ?? null);
}

/** The alarm of an incident; null where it is gone or cannot be read. */
export const alarmOf = ({ alarms }: Known, { alarmId }: Incident): Alarm | null =>
  alarmId === null ? null : (alarms.get(alarmId) ?? null);
