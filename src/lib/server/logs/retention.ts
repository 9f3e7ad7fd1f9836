// log_segments, log_streams, plans (how long lines are stored)
import { usualPlan } from '$lib/core/intake';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

const dayMs = 86_400_000;

/** How long the lines of a service of an account would be stored, by a plan that is not in force yet. */
export interface SupposedLines {
  readonly accountId: number;
  readonly service: string;
  readonly lineDays: number;
}

/** Segments whose newest line is older than their plan stores it. */
const due = `
  from log_segments
  join log_streams on log_streams.id = log_segments.stream_id
  left join plans on plans.account_id = log_streams.account_id and plans.service = log_streams.service
  where to_at < $1::bigint - ${dayMs}::bigint * coalesce(
      $4::bigint, (plans.plan->'keep'->>'lineDays')::bigint, ${usualPlan.keep.lineDays})
    and ($2::integer is null or log_streams.account_id = $2 and log_streams.service = $3::text)`;

const values = (at: Instant, supposed?: SupposedLines): unknown[] => [
  at,
  supposed?.accountId ?? null,
  supposed?.service ?? null,
  supposed?.lineDays ?? null
];

/** Lines of a service of an account, and what they take. */
export interface StoredLines {
  readonly accountId: number;
  readonly service: string;
  readonly lines: number;
  readonly bytes: number;
}

/** Lines that will have been due for removal at a moment, of those that are there now; nothing is changed. */
export const linesDue = (db: Queryable, at: Instant, supposed?: SupposedLines): Promise<StoredLines[]> =>
  db.rows(
    `select log_streams.account_id as "accountId", log_streams.service, sum(lines)::float8 as lines, sum(length(parts) + length(summary))::float8 as bytes
     ${due}
     group by 1, 2`,
    values(at, supposed)
  );

/** The most segments that one statement removes, so that it stays short. */
const mostAtOnce = 500;

/**
 * Removes what is due, some at a time. Killed in between, the rest is removed the next time.
 *
 * @returns the ids of the segments that were removed
 */
export async function removeDueLines(db: Queryable, now: Instant): Promise<number[]> {
  for (const removed: number[] = []; ;) {
    const rows = await db.rows<{ id: number }>(
      `delete from log_segments
       using (select log_segments.id ${due} limit ${mostAtOnce}) as gone
       where log_segments.id = gone.id
       returning log_segments.id`,
      values(now)
    );
    removed.push(...rows.map(({ id }) => id));
    if (rows.length < mostAtOnce) return removed;
  }
}

/** What is stored of lines, by account and service: those that are sealed, and those that wait. */
export const storedLines = (
  db: Queryable
): Promise<(StoredLines & { readonly raw: number; readonly waiting: number; readonly oldest: Instant | null })[]> =>
  db.rows(
    `select account_id as "accountId", service, coalesce(sum(sealed.lines), 0)::float8 as lines, coalesce(sum(sealed.bytes), 0)::float8 as bytes,
       coalesce(sum(sealed.raw), 0)::float8 as raw, min(sealed.oldest) as oldest, coalesce(sum(held.lines), 0)::float8 as waiting
     from log_streams
     left join (
       select stream_id, sum(lines) as lines, sum(length(parts) + length(summary)) as bytes, sum(raw_bytes) as raw, min(from_at) as oldest
       from log_segments
       group by stream_id
     ) as sealed on sealed.stream_id = log_streams.id
     left join (select stream_id, sum(lines) as lines from log_journal group by stream_id) as held on held.stream_id = log_streams.id
     group by 1, 2
     order by 1, 2`
  );
