import type { RoutedIncident } from '$lib/core/notify/route';
import type { Queryable } from '../db/pool';
import type { IncidentEvent } from '../incidents/events';
import { incidentsByIds, type Incident } from '../incidents/incidents';
import { resourcesByIds, type Resource } from '../inventory/resources';
import { raisersOf, type Raiser } from './raiser';
import { routedOn, type RoutingTable } from './routing';
import { HeldThreads } from './threads';

/** What one transaction has read of the incidents that it handles. */
export interface Known {
  readonly incidents: ReadonlyMap<number, Incident>;
  /** What raised each; without those whose alarm is gone or cannot be read. */
  readonly raisers: ReadonlyMap<number, Raiser>;
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
  return {
    incidents: new Map(incidents.map((incident) => [incident.id, incident])),
    raisers: await raisersOf(within, incidents),
    threads,
    resources: new Map(resources.map((resource) => [resource.id, resource]))
  };
}

/** What routes look at of an incident of which an event says how severe it is. */
export function routedAt(table: RoutingTable, known: Known, incident: Incident, event: IncidentEvent): RoutedIncident {
  const resource = incident.resourceId === null ? undefined : known.resources.get(incident.resourceId);
  const severity = event.severity ?? incident.severity;
  return routedOn(table, incident, known.raisers.get(incident.id) ?? null, severity, resource ?? null);
}
