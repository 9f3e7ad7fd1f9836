import { after, before, duration, hour, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { type Incident } from '../incidents/incidents';
import { incidentsIn } from '../incidents/span';
import { marksIn } from '../marks/marks';
import { eventsIn } from '../intake/events/events';

/** Something that changed near an incident before it was raised. */
export interface ChangeNear {
  readonly at: Instant;
  readonly kind: 'mark' | 'event' | 'incident';
  readonly text: string;
}

/** How long before an incident changes are looked for, and how many are named. */
const [lookBack, mostNamed] = [times(2, hour), 5];
/** What is recorded a little after the data that raised it may have come before it all the same. */
const leeway = times(2, minute);

/**
 * What changed near an incident in the two hours before it: marks of its service or of all, events of its resource or account, other incidents on its resource, account or service. The newest first.
 *
 * @example (await changesNear(db, incident))[0] // { at, kind: 'mark', text: 'gateway firmware 4.2' }
 */
export async function changesNear(
  db: Queryable,
  incident: Pick<Incident, 'id' | 'openedAt' | 'service' | 'account' | 'resource'>,
  most = mostNamed
): Promise<ChangeNear[]> {
  const within = { from: before(incident.openedAt, lookBack), to: after(incident.openedAt, duration(leeway)) };
  // One after the other: within a transaction there is one connection.
  const marks = await marksIn(db, within);
  const events = await eventsIn(db, within.from, within.to);
  const others = await incidentsIn(db, within, 200);
  const near: ChangeNear[] = [
    ...marks
      .filter(
        ({ board, service, from }) =>
          board === null && (service === null || service === incident.service) && from >= within.from
      )
      .map(({ from, text }): ChangeNear => ({ at: from, kind: 'mark', text })),
    ...events
      .filter(
        ({ account, resource }) => account === incident.account && (resource === null || resource === incident.resource)
      )
      .map(({ at, text }): ChangeNear => ({ at, kind: 'event', text })),
    ...others
      .filter(
        (other) =>
          other.id !== incident.id &&
          other.openedAt >= within.from &&
          ((other.account === incident.account && other.account !== '') ||
            (other.service === incident.service && other.service !== ''))
      )
      .map(({ openedAt, severity, subject, alarm }): ChangeNear => ({
        at: openedAt,
        kind: 'incident',
        text: `${severity} on ${subject}: ${alarm}`
      }))
  ];
  return near.sort((a, b) => b.at - a.at).slice(0, most);
}
