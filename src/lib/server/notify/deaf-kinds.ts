// deaf_kinds, outbox
import type { SentKind } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** A kind of channel by which nothing leaves. */
export interface FailingKind {
  readonly kind: SentKind;
  /** When the oldest message that waits was made. */
  readonly since: Instant;
  readonly waiting: number;
  /** Why the newest of them failed. */
  readonly reason: string;
}

/**
 * Kinds of channels by which nothing leaves: a message waits that failed, that was due before an instant, and none was taken since it was due. One address that is refused for long does not count while others of its kind are
 * taken, and hides no failure of the whole kind either.
 */
export async function kindsThatFail(db: Queryable, before: Instant): Promise<FailingKind[]> {
  const waiting = await db.rows<{ kind: SentKind; at: Instant; reason: string }>(
    `select channels.kind, greatest(outbox.created_at, hold_until) as at, last_error as reason
     from outbox
     join channels on channels.id = channel_id
     where state = 'queued' and last_error is not null
     order by outbox.id`
  );
  if (waiting.length === 0) return [];
  const taken = new Map(
    (
      await db.rows<{ kind: SentKind; at: Instant }>(
        `select channels.kind, max(sent_at) as at
         from outbox
         join channels on channels.id = channel_id
         where state = 'sent' and sent_at >= $1
         group by channels.kind`,
        [Math.min(...waiting.map(({ at }) => at))]
      )
    ).map(({ kind, at }) => [kind, at])
  );
  return [...new Set(waiting.map(({ kind }) => kind))].flatMap((kind) => {
    const since = waiting.filter((one) => one.kind === kind && one.at > (taken.get(kind) ?? 0));
    const oldest = Math.min(...since.map(({ at }) => at)) as Instant;
    return since.length === 0 || oldest > before
      ? []
      : [{ kind, since: oldest, waiting: since.length, reason: since.at(-1)?.reason ?? '' }];
  });
}

/** Kinds that are known to fail. */
export const deafKinds = (db: Queryable): Promise<{ kind: SentKind; since: Instant }[]> =>
  db.rows('select kind, since from deaf_kinds order by kind');

/** @returns whether it was not known before */
export const noteDeaf = async (within: Queryable, kind: SentKind, since: Instant): Promise<boolean> =>
  (
    await within.rows(
      'insert into deaf_kinds (kind, since) values ($1, $2) on conflict (kind) do nothing returning 1',
      [kind, since]
    )
  ).length > 0;

/** @returns whether it was known to fail */
export const noteHearing = async (within: Queryable, kind: SentKind): Promise<boolean> =>
  (await within.rows('delete from deaf_kinds where kind = $1 returning 1', [kind])).length > 0;
