// chunks, plans (how long each resolution is stored)
import { rollupSteps } from '$lib/core/series';
import { usualPlan, type CollectionPlan } from '$lib/core/intake';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { periodOf } from './chunks';

/** What retention removes, or would remove, of one resolution of one service of one account. */
export interface Removal {
  readonly accountId: number;
  readonly service: string;
  readonly resolution: number;
  readonly chunks: number;
  readonly points: number;
  readonly bytes: number;
}

const day = 86_400_000;
const keys = ['sampleDays', 'fiveMinuteDays', 'hourDays'] as const;
const resolutions = [0, ...rollupSteps];

/**
 * Chunks whose whole period is older than their plan stores it. One that was written within a day stays, so that history which is still being filled in can be rolled
 * up whole.
 */
const due = `
  select chunks.account_id, chunks.series_id, chunks.resolution_ms, chunks.period_from, resources.service, chunks.points, length(chunks.bytes) as bytes
  from chunks
  join series on series.account_id = chunks.account_id and series.id = chunks.series_id
  join resources on resources.account_id = series.account_id and resources.id = series.resource_id
  join unnest($1::integer[], $2::text[], $3::integer[], $4::bigint[]) as kept (resolution_ms, key, usual_days, period_ms)
    on kept.resolution_ms = chunks.resolution_ms
  left join plans on plans.account_id = chunks.account_id and plans.service = resources.service
  where chunks.period_from + kept.period_ms <= $5::bigint - ${day} * coalesce(
      ($8::jsonb->>kept.key)::bigint,
      (plans.plan->'keep'->>kept.key)::bigint,
      kept.usual_days)
    and chunks.changed_at <= $5::bigint - ${day}
    and ($6::integer is null or chunks.account_id = $6 and resources.service = $7::text)`;

/** How long a service of an account would be stored, by a plan that is not in force yet. */
export interface Supposed {
  readonly accountId: number;
  readonly service: string;
  readonly keep: Pick<CollectionPlan['keep'], (typeof keys)[number]>;
}

const values = (now: Instant, supposed?: Supposed): unknown[] => [
  resolutions,
  keys,
  keys.map((key) => usualPlan.keep[key]),
  resolutions.map(periodOf),
  now,
  supposed?.accountId ?? null,
  supposed?.service ?? null,
  supposed?.keep ?? null
];

/**
 * What will have been due for removal at a moment, of what is there now, and what that frees; nothing is changed.
 *
 * @param supposed what if this were how long a service is stored; only that service is looked at
 * @example await removalsDue(db, after(now, week)) // what a week from now will be gone
 */
export const removalsDue = (db: Queryable, at: Instant, supposed?: Supposed): Promise<Removal[]> =>
  db.rows<Removal>(
    `select account_id as "accountId", service, resolution_ms as resolution, count(*)::integer as chunks, sum(points)::bigint as points, sum(bytes)::bigint as bytes
     from (${due}) as due
     group by 1, 2, 3
     order by 1, 2, 3`,
    values(at, supposed)
  );

/** The most chunks that one statement removes, so that it stays short. */
const mostAtOnce = 2000;

/**
 * Removes what is due, some at a time. Killed in between, the rest is removed the next time.
 *
 * @returns chunks removed
 */
export async function retain(db: Queryable, now: Instant): Promise<number> {
  for (let removed = 0; ;) {
    const rows = await db.rows(
      `delete from chunks
       using (select account_id, series_id, resolution_ms, period_from from (${due}) as due limit ${mostAtOnce}) as gone
       where chunks.account_id = gone.account_id and chunks.series_id = gone.series_id and chunks.resolution_ms = gone.resolution_ms
         and chunks.period_from = gone.period_from
       returning chunks.series_id`,
      values(now)
    );
    removed += rows.length;
    if (rows.length < mostAtOnce) return removed;
  }
}

/** Bytes and points that are stored, by resolution; 0 are the samples themselves. */
export const storedSizes = (
  db: Queryable
): Promise<{ resolution: number; chunks: number; points: number; bytes: number; oldest: Instant }[]> =>
  db.rows(
    `select resolution_ms as resolution, count(*)::integer as chunks, sum(points)::bigint as points, sum(length(bytes))::bigint as bytes, min(from_at) as oldest
     from chunks
     group by 1
     order by 1`
  );
