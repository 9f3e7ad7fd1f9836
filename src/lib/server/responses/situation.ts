import { belonging } from '$lib/core/group';
import type { AutoResponse, Situation } from '$lib/core/response';
import { covers } from '$lib/core/shelving';
import { before, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Incident } from '../incidents/incidents';
import type { Resource } from '../inventory/resources';
import { allGroups, groupById } from '../query/groups/groups';
import { groupLabelsOf, membersOf } from '../query/groups/members';
import { activeShelvings } from '../shelving/shelvings';
import { affectedOf, begunSince } from './runs';

/** What maintenance and limits look at of an incident. */
export type ActedOn = Pick<Incident, 'id' | 'alarmId' | 'labels' | 'account' | 'region' | 'service' | 'resource'>;

/** Whether maintenance is planned for now of a resource, of its service, account, groups or tags, or of what is raised. */
async function isMaintained(db: Queryable, resource: Resource | null, incident: ActedOn): Promise<boolean> {
  const maintenance = (await activeShelvings(db)).filter(({ shelving }) => shelving.kind === 'maintenance');
  if (maintenance.length === 0) return false;
  const {
    account,
    region,
    service,
    resource: name
  } = resource === null ? incident : { ...resource, resource: resource.name };
  const labels = resource === null ? null : groupLabelsOf(resource);
  const subject = {
    ...{ severity: 'critical' as const, incidentId: incident.id, alarmId: incident.alarmId ?? 0 },
    ...{ account, region, service, resource: name, labels: { ...resource?.tags, ...incident.labels } },
    groupIds:
      labels === null ? [] : (await allGroups(db)).flatMap(({ id, rule }) => (belonging(rule)(labels) ? [id] : []))
  };
  return maintenance.some(({ shelving: { scope } }) => covers({ ...scope, severities: [] }, subject));
}

/** What the limits of a response look at, before it does something with a resource. */
export async function situationOf(
  db: Queryable,
  { id, limits }: Pick<AutoResponse, 'limits'> & { readonly id: number },
  resource: Resource | null,
  incident: ActedOn,
  now: Instant
): Promise<Situation> {
  const since = before(now, times(Math.max(60, limits.restMinutes), minute));
  const group = limits.group === null ? null : await groupById(db, limits.group.groupId);
  // A group that is gone limits to nothing: what was a third of it, nobody knows.
  const members =
    limits.group === null ? null : group === null ? [] : (await membersOf(db, group.rule)).map((one) => one.id);
  return {
    now,
    resourceId: resource?.id ?? null,
    begun: await begunSince(db, id, resource?.id ?? null, since),
    members,
    affected: members === null ? new Set() : await affectedOf(db, members, now),
    isMaintained: await isMaintained(db, resource, incident)
  };
}
