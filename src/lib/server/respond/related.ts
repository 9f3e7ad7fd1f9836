import { relationsBetween } from '$lib/core/incident';
import { after, before, day, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { type Incident } from '../incidents/incidents';
import { incidentsIn } from '../incidents/span';
import { pastOfSeries, type PastIncident } from '../incidents/past';

/** Incidents that open so close to each other may have one cause. */
const near = times(30, minute);
/** How far back earlier incidents are looked for. */
const lookBack = times(90, day);
const mostListed = 6;

/** Why incidents may have one cause, in words. */
const reasons = { resource: 'same resource', account: 'same account, no data', minute: 'same minute' } as const;

/** What else was raised near an incident, and how often the same was raised before. */
export interface Related {
  /** On its resource, account or service, within half an hour. */
  readonly also: readonly (Pick<Incident, 'id' | 'severity' | 'subject' | 'alarm' | 'openedAt' | 'closedAt'> & {
    /** Why it may have the same cause, in words; null when it is merely near. */
    readonly why: string | null;
  })[];
  /** Earlier ones of the same alarm and series, the newest first. */
  readonly earlier: readonly PastIncident[];
  /** How many earlier ones there were in 90 days, and how long they lasted in the middle, ms; null for none. */
  readonly count: number;
  readonly median: number | null;
}

/** @param dark names of accounts that send nothing */
export async function relatedTo(
  db: Queryable,
  incident: Incident,
  dark: ReadonlySet<string>,
  now: Instant
): Promise<Related> {
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
          (relationsBetween(incident, other, dark).length > 0 ||
            (other.resource !== '' && other.resource === incident.resource) ||
            (other.account !== '' && other.account === incident.account) ||
            (other.service !== '' && other.service === incident.service))
      )
      .map((other) => ({ other, why: relationsBetween(incident, other, dark)[0] ?? null }))
      .sort((a, b) => Number(a.why === null) - Number(b.why === null))
      .slice(0, mostListed)
      .map(({ other: { id, severity, subject, alarm, openedAt, closedAt }, why }) => ({
        ...{ id, severity, subject, alarm, openedAt, closedAt },
        why: why === null ? null : reasons[why]
      })),
    earlier: earlier.slice(0, mostListed),
    count: earlier.length,
    median: lengths.length === 0 ? null : (lengths[Math.floor(lengths.length / 2)] ?? null)
  };
}
