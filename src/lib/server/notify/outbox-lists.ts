// outbox, as people read it
import type { ChannelKind } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { MessageKind, OutboxMessage } from './outbox';

/** A message to somebody, with how it stands. */
export interface ToldMessage {
  readonly id: number;
  /** The kind of its channel; null when that was removed. */
  readonly channelKind: ChannelKind | null;
  readonly kind: MessageKind;
  readonly channel: string;
  /** Whoever was reached by it; null for a channel of all. */
  readonly person: string | null;
  readonly address: string;
  readonly state: OutboxMessage['state'];
  readonly lastError: string | null;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
}

const deliveries = `
  select outbox.id, channels.kind as "channelKind", outbox.kind, coalesce(channels.name, channel_name) as channel, people.display_name as person, coalesce(channels.address, outbox.address) as address, state, last_error as "lastError", outbox.created_at as "createdAt", sent_at as "sentAt"
  from outbox
  left join channels on channels.id = outbox.channel_id
  left join people on people.id = outbox.person_id`;

/** Who was notified of an incident, in order. */
export const messagesOfIncident = (db: Queryable, incidentId: number): Promise<ToldMessage[]> =>
  db.rows<ToldMessage>(`${deliveries} where incident_ids @> array[$1::integer] order by outbox.id`, [incidentId]);

/** Threads of which no message of the last hour was taken, though each was tried, and none is newer than an instant. */
export const deafThreads = async (db: Queryable, before: Instant): Promise<number[]> =>
  (
    await db.rows<{ id: number }>(
      `select thread_id as id
       from outbox
       where thread_id is not null and created_at >= $1::bigint - 3600000 and state in ('queued', 'failed', 'sent')
       group by thread_id
       having bool_and(state <> 'sent' and last_error is not null) and max(created_at) <= $1`,
      [before]
    )
  ).map(({ id }) => id);

/** Of how many incidents people were notified by each route since an instant. */
export async function incidentsByRoute(db: Queryable, since: Instant): Promise<ReadonlyMap<number, number>> {
  const rows = await db.rows<{ routeId: number; count: number }>(
    `select route_id as "routeId", count(distinct incident)::integer as count
     from outbox, unnest(incident_ids) as incident
     where route_id is not null and created_at >= $1
     group by route_id`,
    [since]
  );
  return new Map(rows.map(({ routeId, count }) => [routeId, count]));
}

/** Who was reached by messages to people since an instant, and when. */
export const messagesToPeople = (db: Queryable, since: Instant): Promise<{ personId: number; at: Instant }[]> =>
  db.rows(`select person_id as "personId", sent_at as at from outbox where person_id is not null and sent_at >= $1`, [
    since
  ]);

/** How a message can stand. */
export const outboxStates = ['queued', 'sent', 'failed', 'superseded', 'withdrawn'] as const;

/** A message as the outbox lists it. */
export interface ListedMessage extends ToldMessage {
  readonly subject: string;
  readonly attempts: number;
  readonly incidentIds: readonly number[];
}

/**
 * Messages, newest first.
 *
 * @param before only older ones than that of an id; null for all
 * @param around begins with that message where it would be farther down; null for none
 */
export const listMessages = (
  db: Queryable,
  {
    state,
    before,
    around
  }: { readonly state: OutboxMessage['state'] | null; readonly before: number | null; readonly around: number | null },
  most: number
): Promise<ListedMessage[]> =>
  db.rows(
    `${deliveries.replace('select ', 'select outbox.subject, attempts, incident_ids as "incidentIds", ')}
     where ($1::text is null or state = $1)
       and ($2::bigint is null or outbox.id < $2)
       and ($3::integer is null or outbox.id <= $3 + 50)
     order by outbox.id desc
     limit $4`,
    [state, before, around, most]
  );

/** How many messages are in each state. */
export async function countByState(db: Queryable): Promise<Partial<Record<OutboxMessage['state'], number>>> {
  const rows = await db.rows<{ state: OutboxMessage['state']; count: number }>(
    'select state, count(*)::integer as count from outbox group by state'
  );
  return Object.fromEntries(rows.map(({ state, count }) => [state, count]));
}

/** The newest messages, confirmations left out. */
export const recentMessages = (db: Queryable, most: number): Promise<(ToldMessage & { subject: string })[]> =>
  db.rows(
    `${deliveries.replace('select ', 'select outbox.subject, ')} where outbox.kind not in ('confirm', 'join', 'reset') order by outbox.id desc limit $1`,
    [most]
  );

/** What keeps messages from leaving. */
export interface DeliveryTrouble {
  /** Messages that are tried in vain so far. */
  readonly waiting: number;
  /** Messages that were given up. */
  readonly failed: number;
  /** When the oldest of them was to leave. */
  readonly since: Instant;
  /** Why the newest try failed. */
  readonly reason: string;
}

/** What keeps messages from leaving at present; null when nothing does. */
export async function deliveryTrouble(db: Queryable): Promise<DeliveryTrouble | null> {
  const rows = await db.rows<DeliveryTrouble>(
    `select count(*) filter (where state = 'queued')::integer as waiting, count(*) filter (where state = 'failed')::integer as failed,
       min(created_at) as since, (array_agg(last_error order by id desc))[1] as reason
     from outbox
     where state = 'failed' or (state = 'queued' and last_error is not null)
     having count(*) > 0`
  );
  return rows[0] ?? null;
}

/** The newest message of each channel. */
export async function lastMessages(
  db: Queryable
): Promise<{ channelId: number; state: OutboxMessage['state']; lastError: string | null; createdAt: Instant }[]> {
  return db.rows(
    `select distinct on (channel_id) channel_id as "channelId", state, last_error as "lastError", created_at as "createdAt"
     from outbox
     where channel_id is not null
     order by channel_id, id desc`
  );
}
