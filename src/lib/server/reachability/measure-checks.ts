import type { Attempt, Phase, Standing } from '$lib/core/reachability';
import { day, minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { ownSample, type OwnMeasures } from '../intake/own/own-account';
import { checkMetrics } from '../intake/own/own-metrics';
import type { FetchedSeries, FoundResource } from '../providers/port/provider';
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

/**
 * How every check stands, as samples of the current minute: an alarm has a number in each minute, however seldom the check looks.
 *
 * @returns also the checks that are off, as resources that are there
 */
export async function measureChecks(db: Queryable, now: Instant): Promise<OwnMeasures> {
  const checks = await allChecks(db);
  const at = (Math.floor(now / minute) * minute) as Instant;
  return {
    resources: checks.map(resourceOfCheck),
    series: checks
      .filter(({ check }) => check.enabled)
      .flatMap((one) => standingSamples(one, one.last, one.standing, at))
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
