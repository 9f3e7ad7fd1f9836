// outbox
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export type MessageKind = 'confirm' | 'raised' | 'cleared' | 'passed' | 'unjudged';

export interface OutboxMessage {
  readonly id: number;
  /** Null when the channel has been removed since. */
  readonly channelId: number | null;
  readonly incidentId: number | null;
  /** Of a message about an alarm itself. */
  readonly alarmId: number | null;
  readonly kind: MessageKind;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  /** The more urgent, the higher. */
  readonly priority: number;
  readonly state: 'queued' | 'sent' | 'failed' | 'superseded' | 'withdrawn';
  readonly attempts: number;
  /** Why the newest try failed; null before any did. */
  readonly lastError: string | null;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
}

export type NewMessage = Pick<
  OutboxMessage,
  'incidentId' | 'alarmId' | 'kind' | 'subject' | 'text' | 'html' | 'priority' | 'createdAt'
> & { readonly channelId: number };

const columns = `id, channel_id as "channelId", incident_id as "incidentId", alarm_id as "alarmId", kind, subject, text, html, priority, state, attempts,
  last_error as "lastError", created_at as "createdAt", sent_at as "sentAt"`;

export async function insertMessage(db: Queryable, message: NewMessage): Promise<number> {
  const rows = await db.rows<{ id: number }>(
    `insert into outbox (channel_id, channel_name, address, incident_id, alarm_id, kind, subject, text, html, priority, created_at)
     select id, name, address, $2::integer, $3::integer, $4, $5, $6, $7, $8::integer, $9::bigint
     from channels
     where id = $1
     returning id`,
    [
      message.channelId,
      message.incidentId,
      message.alarmId,
      message.kind,
      message.subject,
      message.text,
      message.html,
      message.priority,
      message.createdAt
    ]
  );
  return oneRow(rows).id;
}

export async function messageById(db: Queryable, id: number): Promise<OutboxMessage | null> {
  const rows = await db.rows<OutboxMessage>(`select ${columns} from outbox where id = $1`, [id]);
  return rows[0] ?? null;
}

/** Messages that are to be sent, the most urgent first. */
export const waitingMessages = (db: Queryable): Promise<Pick<OutboxMessage, 'id' | 'priority'>[]> =>
  db.rows(`select id, priority from outbox where state = 'queued' order by priority desc, id`);

export async function noteSent(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows(
    `update outbox set state = 'sent', sent_at = $2, attempts = attempts + 1, last_error = null where id = $1`,
    [id, at]
  );
}

/** Notes a try that failed and will be made again. */
export async function noteTry(db: Queryable, id: number, error: string): Promise<void> {
  await db.rows('update outbox set attempts = attempts + 1, last_error = $2 where id = $1', [id, error.slice(0, 1000)]);
}

/** Notes that a message is given up. */
export async function noteFailed(db: Queryable, id: number, error: string): Promise<void> {
  await db.rows(`update outbox set state = 'failed', attempts = attempts + 1, last_error = $2 where id = $1`, [
    id,
    error.slice(0, 1000)
  ]);
}

/** Queues a message that failed as if it were new. @returns its priority; null when none of that id has failed */
export async function queueAgain(db: Queryable, id: number, at: Instant): Promise<number | null> {
  const rows = await db.rows<{ priority: number }>(
    `update outbox set state = 'queued', attempts = 0, created_at = $2 where id = $1 and state = 'failed' returning priority`,
    [id, at]
  );
  return rows[0]?.priority ?? null;
}

/** Whether the clearing of the same incident has been queued for the same channel. */
export async function wasCleared(
  db: Queryable,
  { incidentId, channelId }: Pick<OutboxMessage, 'incidentId' | 'channelId'>
): Promise<boolean> {
  if (incidentId === null) return false;
  const rows = await db.rows(
    `select 1 from outbox where incident_id = $1 and channel_id = $2 and kind = 'cleared' limit 1`,
    [incidentId, channelId]
  );
  return rows.length > 0;
}

export async function noteSuperseded(db: Queryable, id: number): Promise<void> {
  await db.rows(`update outbox set state = 'superseded' where id = $1`, [id]);
}

/** The raised message of an incident that has not left when the clearing one does is not sent any more: the clearing one says both. */
export async function supersedeRaised(
  db: Queryable,
  { incidentId, channelId }: Pick<OutboxMessage, 'incidentId' | 'channelId'>
): Promise<void> {
  await db.rows(
    `update outbox
     set state = 'superseded'
     where incident_id = $1 and channel_id = $2 and kind = 'raised' and state in ('queued', 'failed')`,
    [incidentId, channelId]
  );
}

export interface ToldMessage {
  readonly id: number;
  readonly kind: MessageKind;
  readonly channel: string;
  readonly address: string;
  readonly state: OutboxMessage['state'];
  readonly lastError: string | null;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
}

const deliveries = `
  select outbox.id, outbox.kind, coalesce(channels.name, channel_name) as channel, coalesce(channels.address, outbox.address) as address, state, last_error as "lastError", outbox.created_at as "createdAt", sent_at as "sentAt"
  from outbox
  left join channels on channels.id = outbox.channel_id`;

/** Who was notified of an incident, in order. */
export const messagesOfIncident = (db: Queryable, incidentId: number): Promise<ToldMessage[]> =>
  db.rows<ToldMessage>(`${deliveries} where incident_id = $1 order by outbox.id`, [incidentId]);

/** Messages that did not leave: given up, or tried in vain so far; newest first. */
export const troubledMessages = (db: Queryable, most: number): Promise<(ToldMessage & { subject: string })[]> =>
  db.rows(
    `${deliveries.replace('select ', 'select outbox.subject, ')}
     where state = 'failed' or (state = 'queued' and last_error is not null)
     order by outbox.id desc
     limit $1`,
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
