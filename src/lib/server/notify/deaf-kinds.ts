// deaf_kinds, outbox
import type { ChannelKind } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** A kind of channel by which nothing leaves. */
export interface FailingKind {
  readonly kind: ChannelKind;
  /** When the oldest message that waits was made. */
  readonly since: Instant;
  readonly waiting: number;
  /** Why the newest of them failed. */
  readonly reason: string;
}

/** Kinds of channels of which messages wait that failed before an instant, and of which none was taken since the oldest of these. */
export const kindsThatFail = (db: Queryable, before: Instant): Promise<FailingKind[]> =>
  db.rows(
    `with failing as (
       select channels.kind, min(outbox.created_at) as since, count(*)::integer as waiting,
         (array_agg(last_error order by outbox.id desc))[1] as reason
       from outbox
       join channels on channels.id = channel_id
       where state = 'queued' and last_error is not null
       group by channels.kind
     )
     select kind, since, waiting, reason
     from failing
     where since <= $1
       and not exists (
         select from outbox join channels on channels.id = channel_id
         where channels.kind = failing.kind and state = 'sent' and sent_at >= failing.since)
     order by kind`,
    [before]
  );

/** Kinds that are known to fail. */
export const deafKinds = (db: Queryable): Promise<{ kind: ChannelKind; since: Instant }[]> =>
  db.rows('select kind, since from deaf_kinds order by kind');

/** @returns whether it was not known before */
export const noteDeaf = async (within: Queryable, kind: ChannelKind, since: Instant): Promise<boolean> =>
  (
    await within.rows(
      'insert into deaf_kinds (kind, since) values ($1, $2) on conflict (kind) do nothing returning 1',
      [kind, since]
    )
  ).length > 0;

/** @returns whether it was known to fail */
export const noteHearing = async (within: Queryable, kind: ChannelKind): Promise<boolean> =>
  (await within.rows('delete from deaf_kinds where kind = $1 returning 1', [kind])).length > 0;
