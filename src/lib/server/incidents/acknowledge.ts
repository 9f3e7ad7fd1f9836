import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { noteByPerson } from './events';
import { allPeople } from '../people/people';
import { giveTo, incidentById, setAcknowledged, setAllAcknowledged, type Incident } from './incidents';

/**
 * Notes that somebody looks after an incident. One that is acknowledged already stays with whoever did so first.
 *
 * @throws Refusal `not-found`, `incident-closed`
 */
export const acknowledge = (context: Context, id: number, by: string): Promise<Incident> =>
  change(context, id, by, true);

/** Takes that back. @throws Refusal as {@link acknowledge} does */
export const unacknowledge = (context: Context, id: number, by: string): Promise<Incident> =>
  change(context, id, by, false);

/**
 * Gives an open incident to somebody, who looks after it from now on.
 *
 * @param by who does so: maybe the same person, who takes it over
 * @throws Refusal `not-found`, `incident-closed`, `invalid` for somebody who is not there
 */
export async function handOver(
  { db, clock, changes }: Context,
  id: number,
  personId: number,
  by: string
): Promise<Incident> {
  const person = (await allPeople(db)).find((one) => one.id === personId);
  if (person === undefined)
    throw new Refusal('invalid', 'There is no such person.', 'Choose somebody else.', { path: ['personId'] });
  const at = clock.now();
  const incident = await db.transaction(async (within) => {
    await openIncident(within, id);
    await giveTo(within, id, { at, by: person.displayName });
    await noteByPerson(
      within,
      id,
      'acknowledged',
      at,
      person.displayName === by ? by : `${person.displayName}, given by ${by}`
    );
    return openIncident(within, id);
  });
  changes.tell('alarm', { alarmId: incident.alarmId });
  return incident;
}

async function change({ db, clock, changes }: Context, id: number, by: string, is: boolean): Promise<Incident> {
  const at = clock.now();
  const incident = await db.transaction(async (within) => {
    if (await setAcknowledged(within, id, is ? { at, by } : null))
      await noteByPerson(within, id, is ? 'acknowledged' : 'unacknowledged', at, by);
    return openIncident(within, id);
  });
  changes.tell('alarm', { alarmId: incident.alarmId });
  return incident;
}

async function openIncident(within: Queryable, id: number): Promise<Incident> {
  const incident = await incidentById(within, id);
  if (incident === null)
    throw new Refusal('not-found', 'There is no such incident.', 'It may be older than incidents are stored.');
  if (incident.closedAt !== null)
    throw new Refusal('incident-closed', 'It is clear already.', 'Nothing is left to be looked after.');
  return incident;
}

/** Acknowledges several incidents in a transaction of the caller's; those that are clear or looked after stay as they are. @returns the alarms of those that are acknowledged by it */
export async function acknowledgeWithin(
  within: Queryable,
  ids: readonly number[],
  at: Instant,
  by: string
): Promise<number[]> {
  const acknowledged = await setAllAcknowledged(within, ids, { at, by });
  for (const { id } of acknowledged) await noteByPerson(within, id, 'acknowledged', at, by);
  return [...new Set(acknowledged.flatMap(({ alarmId }) => (alarmId === null ? [] : [alarmId])))];
}
