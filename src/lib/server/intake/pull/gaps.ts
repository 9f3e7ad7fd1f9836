// gaps
import { before, hour, type Duration, type Instant, type Range } from '$lib/core/time';
import type { Queryable } from '../../db/pool';

/** A span of a service of an account that is still to be fetched. */
export interface Gap {
  readonly accountId: number;
  readonly service: string;
  /** History that was wanted from the beginning, or what an outage left out. */
  readonly kind: 'history' | 'outage';
  readonly from: Instant;
  readonly to: Instant;
}

const columns = `account_id as "accountId", service, kind, from_at as "from", to_at as "to"`;

/** Every gap in the order it is to be filled: outages first, oldest first; history newest first, so that what people look at comes soonest. */
export const allGaps = (db: Queryable): Promise<Gap[]> =>
  db.rows<Gap>(
    `select ${columns}
     from gaps
     order by kind = 'history', case when kind = 'outage' then from_at end, to_at desc, service`
  );

/** Services of accounts of which something in a range is still to be fetched. */
export const gapsWithin = (db: Queryable, { from, to }: Range): Promise<{ accountId: number; service: string }[]> =>
  db.rows(`select distinct account_id as "accountId", service from gaps where from_at < $2 and to_at > $1`, [from, to]);

export async function addGap(db: Queryable, { accountId, service, kind, from, to }: Gap): Promise<void> {
  if (from >= to) return;
  await db.rows(
    `insert into gaps (account_id, service, kind, from_at, to_at, whole_ms)
     values ($1, $2, $3, $4::bigint, $5::bigint, $5::bigint - $4::bigint)
     on conflict (account_id, service, kind, from_at) do update
     set to_at = greatest(gaps.to_at, excluded.to_at), whole_ms = greatest(gaps.whole_ms, excluded.whole_ms)`,
    [accountId, service, kind, from, to]
  );
}

/**
 * The next piece of a gap: from its end for history, from its start for an outage; cut at whole hours, so that no cell of a rollup is filled in two halves.
 *
 * @example pieceOf({ kind: 'history', from: 0, to: 30_000_000, … }, hour) // { from: 28_800_000, to: 30_000_000 }
 */
export function pieceOf({ kind, from, to }: Pick<Gap, 'kind' | 'from' | 'to'>, length: Duration): Range {
  if (kind === 'history') {
    const cut = Math.ceil((to - length) / hour) * hour;
    return { from: Math.max(from, Math.min(cut, before(to, 1 as Duration))) as Instant, to };
  }
  const cut = Math.floor((from + length) / hour) * hour;
  return { from, to: (cut > from ? Math.min(to, cut) : to) as Instant };
}

/** Takes a filled piece off a gap; a gap without anything left is gone. */
export async function fillGap(db: Queryable, gap: Gap, piece: Range): Promise<void> {
  const key = [gap.accountId, gap.service, gap.kind, gap.from];
  const [from, to] = gap.kind === 'history' ? [gap.from, piece.from] : [piece.to, gap.to];
  if (from >= to)
    await db.rows('delete from gaps where account_id = $1 and service = $2 and kind = $3 and from_at = $4', key);
  else
    await db.rows(
      'update gaps set from_at = $5, to_at = $6 where account_id = $1 and service = $2 and kind = $3 and from_at = $4',
      [...key, from, to]
    );
}
