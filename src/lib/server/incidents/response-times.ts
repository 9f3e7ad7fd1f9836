// incidents
import { minute, times, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** Incidents that are acknowledged within so long count as answered in time. */
export const inTime = times(15, minute);

/** How many incidents opened since an instant, without those judged afterwards, and how many of them were acknowledged in time. */
export const acknowledgedInTime = async (
  db: Queryable,
  since: Instant
): Promise<{ readonly count: number; readonly inTime: number }> =>
  oneRow(
    await db.rows<{ count: number; inTime: number }>(
      `select count(*)::integer as count, (count(*) filter (where acknowledged_at - opened_at <= $2))::integer as "inTime"
       from incidents
       where opened_at >= $1 and not judged_afterwards`,
      [since, inTime]
    )
  );
