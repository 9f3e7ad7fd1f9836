import { covers, isInForce, nextChange, type Scope } from '$lib/core/shelving';
import type { Instant } from '$lib/core/time';
import type { Changes } from '../base/changes';
import type { Database, Queryable } from '../db/pool';
import { noteShelved } from '../incidents/events';
import type { Incident } from '../incidents/incidents';
import { openIncidents } from '../incidents/open';
import {
  changingShelvings,
  holdBack,
  noteChange,
  release,
  takeShelving,
  type StoredShelving
} from '../shelving/shelvings';
import type { Notifier } from './notify-of-events';
import { raiserOf } from './raiser';
import { routedIncident, routingTable, type RoutingTable } from './routing';

/** Open incidents that a shelving which begins is compared with. */
const mostCompared = 5000;

/**
 * Lets shelvings begin and end whose time has come. One that begins holds back what is open already; of what is still raised when one ends, people are notified as if it were new.
 *
 * Pages hear of each that did.
 *
 * @param onFault hears why one could not; it is tried again the next time
 */
export async function changeShelvings(
  { db, clock, changes }: Notifier & { readonly db: Database; readonly changes: Changes },
  onFault: (subject: string, error: unknown) => void
): Promise<void> {
  const due = await changingShelvings(db, clock.now());
  if (due.length === 0) return;
  const table = await routingTable(db);
  for (const id of due)
    try {
      if (await db.transaction((within) => changeOne(within, table, id, clock.now()))) changes.tell('routing', {});
    } catch (error) {
      onFault(`shelving ${id}`, error);
    }
}

/** @returns whether its time had come, and no other process is about it */
async function changeOne(within: Queryable, table: RoutingTable, id: number, now: Instant): Promise<boolean> {
  const stored = await takeShelving(within, id);
  if (stored === null || stored.changesAt === null || stored.changesAt > now) return false;
  const { shelving, endedBy } = stored;
  const active = endedBy === null && isInForce(shelving, now);
  await noteChange(within, id, active, endedBy === null ? nextChange(shelving, now) : null);
  if (!active) await noteShelved(within, await release(within, id), 'unshelved', now, endedBy);
  else if (!stored.active) await hold(within, table, stored, now);
  return true;
}

/** Holds back what is open and covered by a shelving that begins. */
async function hold(within: Queryable, table: RoutingTable, stored: StoredShelving, now: Instant): Promise<void> {
  const held: number[] = [];
  for (const incident of await openIncidents(within, mostCompared)) {
    if (incident.shelvingId !== null || !mayCover(stored.shelving.scope, incident)) continue;
    if (!(await isCovered(within, table, stored, incident))) continue;
    await holdBack(within, incident.id, stored.id);
    held.push(incident.id);
  }
  await noteShelved(within, held, 'shelved', now, stored.createdBy);
}

/** What is seen of an incident itself: whether a scope may cover it, before its alarm and its resource are read. */
const mayCover = ({ alarmIds, resources, accounts }: Scope, { alarmId, resource, account }: Incident): boolean =>
  (alarmIds.length === 0 || (alarmId !== null && alarmIds.includes(alarmId))) &&
  (resources.length === 0 || resources.includes(resource)) &&
  (accounts.length === 0 || accounts.includes(account));

async function isCovered(
  within: Queryable,
  table: RoutingTable,
  { shelving }: StoredShelving,
  incident: Incident
): Promise<boolean> {
  const raiser = await raiserOf(within, incident);
  const routed = await routedIncident(within, table, incident, raiser, incident.severity);
  return covers(shelving.scope, routed);
}
