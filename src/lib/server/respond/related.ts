import { after, before, day, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { incidentsIn, type Incident } from '../incidents/incidents';
import { pastOfSeries, type PastIncident } from '../incidents/past';

/** Incidents that open so close to each other may have one cause. */
const near = times(30, minute);
/** How far back earlier incidents are looked for. */
const lookBack = times(90, day);
const mostListed = 6;

/** What else was raised near an incident, and how often the same was raised before. */
export interface Related {
  /** On its resource, account or service, within half an hour. */
  readonly also: readonly Pick<Incident, 'id' | 'severity' | 'subject' | 'alarm' | 'openedAt' | 'closedAt'>[];
  /** Earlier ones of the same alarm and series, the newest first. */
  readonly earlier: readonly PastIncident[];
  /** How many earlier ones there were in 90 days, and how long they lasted in the middle, ms; null for none. */
  readonly count: number;
  readonly median: number | null;
}

export async function relatedTo(db: Queryable, incident: Incident, now: Instant): Promise<Related> {
  const span = { from: before(incident.openedAt, near), to: after(incident.openedAt, near) };
  const others = await incidentsIn(db, span, 500);
  const earlier = await pastOfSeries(db, incident, before(now, lookBack));
  const lengths = earlier
    .flatMap(({ openedAt, closedAt }) => (closedAt === null ? [] : [closedAt - openedAt]))
    .sort((a, b) => a - b);
  return {
    also: others
      .filter(
        (other) =>
          other.id !== incident.id &&
          other.openedAt >= span.from &&
          ((other.resource !== '' && other.resource === incident.resource) ||
            (other.account !== '' && other.account === incident.account) ||
            (other.service !== '' && other.service === incident.service))
      )
      .slice(0, mostListed)
      .map(({ id, severity, subject, alarm, openedAt, closedAt }) => ({
        id,
        severity,
        subject,
        alarm,
        openedAt,
        closedAt
      })),
    earlier: earlier.slice(0, mostListed),
    count: earlier.length,
    median: lengths.length === 0 ? null : (lengths[Math.floor(lengths.length / 2)] ?? null)
  };
}
