import { longestAttribute } from '$lib/core/events';
import { targetWords, type Attempt, type Phase, type Standing } from '$lib/core/reachability';
import { day, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { ownAccount, ownSample, type OwnMeasures } from '../intake/own/own-account';
import { checkMetrics } from '../intake/own/own-metrics';
import { resourceIdBy } from '../inventory/resources';
import type { FetchedSeries, FoundEvent, FoundResource } from '../providers/port/provider';
import { allChecks, type StoredCheck } from './checks';

const resourceId = (id: number): string => `check/${id}`;

/** A check as a resource of Bussola's own. */
export function resourceOfCheck({ id, check: { name, target } }: Pick<StoredCheck, 'id' | 'check'>): FoundResource {
  return {
    ...{ providerId: resourceId(id), name, type: 'check', service: 'reachability', region: '' },
    tags: { kind: target.kind, host: hostOf(target) },
    ...{ guest: 'none' as const, formerNames: [] }
  };
}

function hostOf(target: StoredCheck['check']['target']): string {
  if (target.kind === 'http') return new URL(target.url).hostname;
  return target.kind === 'tcp' ? target.host : target.name;
}

/** Without an attempt for so much longer than it says, nobody knows how a check stands. */
const lateBy = times(2, minute);
const lateIntervals = 3;

/** Whether what a check found last is so new that it still counts. */
function isFresh({ check: { every }, last }: StoredCheck, now: Instant): boolean {
  return last !== null && now - last.at <= lateIntervals * every * 1000 + lateBy;
}

/**
 * How every check that is on stands, as samples of the current minute: an alarm has a number in each minute, however seldom the check looks. One that is off is
 * no resource any more, so that what it had raised ends.
 */
export async function measureChecks(db: Queryable, now: Instant): Promise<OwnMeasures> {
  const checks = (await allChecks(db)).filter(({ check }) => check.enabled);
  const at = (Math.floor(now / minute) * minute) as Instant;
  return {
    resources: checks.map(resourceOfCheck),
    series: checks.filter((one) => isFresh(one, now)).flatMap((one) => standingSamples(one, one.last, one.standing, at))
  };
}

/** What an attempt measured. */
export function attemptSamples(one: StoredCheck, made: Attempt, standing: Standing): FetchedSeries[] {
  const resource = resourceId(one.id);
  return [
    ...standingSamples(one, made, standing, made.at),
    ownSample(resource, checkMetrics.failures, made.at, made.problem === null ? 0 : 1),
    // How long a failure took says nothing of how long an answer takes.
    ...(made.problem === null
      ? [
          ownSample(resource, checkMetrics.time, made.at, made.took),
          ...(Object.entries(made.phases) as [Phase, number][]).map(([phase, ms]) =>
            ownSample(resource, checkMetrics.phase, made.at, ms, { phase })
          )
        ]
      : [])
  ];
}

/** What is told of an attempt after which a check is down, or up again: it is why an alarm on it is raised. */
export function eventOfChange(one: StoredCheck, made: Attempt, { state }: Standing): FoundEvent | null {
  const { state: before } = one.standing;
  if (state === before || (before === 'unknown' && state === 'up')) return null;
  const { name, target } = one.check;
  return {
    id: `${resourceId(one.id)}/${made.at}`,
    resource: resourceId(one.id),
    at: made.at,
    kind: state === 'down' ? 'check down' : 'check up',
    text: state === 'down' ? `${name} is down: ${made.problem ?? ''}` : `${name} is up again.`,
    subject: {
      target: targetWords(target).slice(0, longestAttribute),
      address: made.address,
      ...(made.status !== null && { status: String(made.status) })
    }
  };
}

function standingSamples(
  { id }: Pick<StoredCheck, 'id'>,
  last: Attempt | null,
  { state }: Standing,
  at: Instant
): FetchedSeries[] {
  const until = last?.certificateUntil ?? null;
  return [
    ...(state === 'unknown' ? [] : [ownSample(resourceId(id), checkMetrics.up, at, state === 'up' ? 1 : 0)]),
    ...(until === null ? [] : [ownSample(resourceId(id), checkMetrics.certificate, at, (until - at) / day)])
  ];
}

/** The resource under which a check is measured; null before its first attempt. */
export async function resourceIdOfCheck(db: Queryable, id: number): Promise<number | null> {
  const own = await ownAccount(db);
  return own === null ? null : resourceIdBy(db, own, resourceId(id));
}
