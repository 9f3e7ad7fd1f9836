import { serviceOfAlarm, type AlarmDefinition, type Severity } from '$lib/core/alarm';
import { belonging } from '$lib/core/group';
import { routeFor, type Route, type RoutedIncident, type RoutePart } from '$lib/core/notify/route';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allMetrics, type Metric } from '../inventory/metrics';
import { resourceById, type Resource } from '../inventory/resources';
import type { Incident } from '../incidents/incidents';
import { allGroups, type Group } from '../query/groups/groups';
import { activeShelvings, type StoredShelving } from '../shelving/shelvings';
import { groupLabelsOf } from '../query/groups/members';
import { allRoutes, isListed, type StoredRoute } from '../routing/routes';
import type { Raiser } from './raiser';

/** What incidents are routed by, as it is now. */
export interface RoutingTable {
  /** Those of the list, the last one at its end. */
  readonly list: readonly StoredRoute[];
  /** All, also those that only alarms name. */
  readonly byId: ReadonlyMap<number, StoredRoute>;
  readonly groups: readonly Group[];
  readonly metrics: readonly Metric[];
  /** Those that are in force. */
  readonly shelvings: readonly StoredShelving[];
}

export async function routingTable(db: Queryable): Promise<RoutingTable> {
  const [routes, groups, metrics, shelvings] = await Promise.all([
    allRoutes(db),
    allGroups(db),
    allMetrics(db),
    activeShelvings(db)
  ]);
  return {
    list: routes.filter(isListed),
    byId: new Map(routes.map((route) => [route.id, route])),
    groups,
    metrics,
    shelvings
  };
}

/** What the condition of a route is about: of the last one, every incident. */
export const conditionOf = ({ route, isLast }: StoredRoute): Pick<Route, 'when' | 'zone'> =>
  isLast ? { when: everyIncident, zone: route.zone } : route;
const everyIncident = { severities: [], services: [], accounts: [], groupIds: [], labels: [], times: null };

/** What routes look at of an incident. Its labels are those of its series, the tags of its resource and those of its alarm or rule, of which the latter count more. */
export async function routedIncident(
  db: Queryable,
  table: RoutingTable,
  incident: Incident,
  raiser: Raiser | null,
  severity: Severity
): Promise<RoutedIncident> {
  const resource = incident.resourceId === null ? null : await resourceById(db, incident.resourceId);
  return routedOn(table, incident, raiser, severity, resource);
}

/** {@link routedIncident}, where its resource has been read. */
export function routedOn(
  { groups, metrics }: RoutingTable,
  incident: Incident,
  raiser: Raiser | null,
  severity: Severity,
  resource: Resource | null
): RoutedIncident {
  const labels = resource === null ? null : groupLabelsOf(resource);
  const alarm = raiser?.alarm ?? null;
  return {
    ...{ severity, account: incident.account, region: incident.region, resource: incident.resource },
    service: incident.service === '' && alarm !== null ? serviceOfAlarm(alarm, metrics) : incident.service,
    alarmId: incident.alarmId ?? 0,
    incidentId: incident.id,
    labels: { ...resource?.tags, ...incident.labels, ...raiser?.labels },
    groupIds: labels === null ? [] : groups.filter(({ rule }) => belonging(rule)(labels)).map(({ id }) => id)
  };
}

/** What routes look at of an alarm that cannot be judged. */
export const routedAlarm = (
  { metrics }: Pick<RoutingTable, 'metrics'>,
  alarmId: number,
  alarm: AlarmDefinition,
  severity: Severity
): RoutedIncident => ({
  ...{ severity, account: '', region: '', resource: '', alarmId, incidentId: 0, groupIds: [] },
  service: serviceOfAlarm(alarm, metrics),
  labels: alarm.labels
});

/**
 * The route that takes an incident: the one that its alarm names, or else the first of the list.
 *
 * @returns null when nobody is notified
 */
export function routeOf(
  { list, byId }: RoutingTable,
  incident: RoutedIncident,
  named: number | null,
  at: Instant
): { readonly route: StoredRoute | null; readonly lacked: readonly (readonly RoutePart[])[] } {
  const own = named === null ? undefined : byId.get(named);
  if (own !== undefined) return { route: own, lacked: [] };
  const { taken, lacked } = routeFor(list.map(conditionOf), incident, at);
  return { route: taken === null ? null : (list[taken] ?? null), lacked };
}

/** What an incident has in common with those of its message; of related ones, where the thread that it joins is not known, itself. */
export function groupingValue({ group }: Route, incident: RoutedIncident): string {
  switch (group.by) {
    case 'incident':
    case 'related':
      return String(incident.incidentId);
    case 'resource':
      return incident.resource === '' ? `incident ${incident.incidentId}` : `${incident.account}/${incident.resource}`;
    case 'alarm':
      return String(incident.alarmId);
    case 'route':
      return '';
    case 'service':
    case 'region':
    case 'account':
      return incident[group.by];
    default:
      throw new RangeError(`groupingValue: no grouping "${String(group.by satisfies never)}"`);
  }
}
