// boards: when they were opened
import type { Logger } from 'pino';
import { before, hour, type Clock, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Notes that somebody opened a board, once an hour at most. Where that cannot be written, such as on a full disk, the board is shown all the same. */
export async function noteOpened(
  { db, clock, log }: { readonly db: Queryable; readonly clock: Clock; readonly log: Pick<Logger, 'warn'> },
  id: number
): Promise<void> {
  const now = clock.now();
  await db
    .rows('update boards set opened_at = $2 where id = $1 and (opened_at is null or opened_at < $3)', [
      id,
      now,
      before(now, hour)
    ])
    .catch((error: unknown) => log.warn({ err: error, board: id }, 'that a board was opened could not be noted'));
}

/** A board that nobody opened for a while. */
export interface UnopenedBoard {
  readonly id: number;
  readonly title: string;
  readonly reach: string;
  /** When it was last opened, or changed; whichever was later. */
  readonly at: Instant;
}

/** Boards that nobody opened or changed since an instant, the longest unopened first. */
export const unopenedSince = (db: Queryable, since: Instant): Promise<UnopenedBoard[]> =>
  db.rows(
    `select id, title, reach, greatest(coalesce(opened_at, 0), changed_at) as at
     from boards
     where greatest(coalesce(opened_at, 0), changed_at) < $1
     order by at, id`,
    [since]
  );
