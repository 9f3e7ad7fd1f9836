// outbox
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export type MessageKind = 'confirm' | 'raised' | 'cleared';

export interface OutboxMessage {
  readonly id: number;
  readonly channelId: number;
  readonly incidentId: number | null;
  readonly kind: MessageKind;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly state: 'queued' | 'sent' | 'failed';
  readonly attempts: number;
  readonly lastError: string | null;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
}

const columns = `id, channel_id as "channelId", incident_id as "incidentId", kind, subject, text, html, state, attempts, last_error as "lastError",
  created_at as "createdAt", sent_at as "sentAt"`;

export async function insertMessage(
  db: Queryable,
  message: Pick<OutboxMessage, 'channelId' | 'incidentId' | 'kind' | 'subject' | 'text' | 'html' | 'createdAt'>
): Promise<number> {
  const rows = await db.rows<{ id: number }>(
    `insert into outbox (channel_id, incident_id, kind, subject, text, html, created_at)
     values ($1, $2, $3, $4, $5, $6, $7)
     returning id`,
    [
      message.channelId,
      message.incidentId,
      message.kind,
      message.subject,
      message.text,
      message.html,
      message.createdAt
    ]
  );
  return oneRow(rows).id;
}

export async function messageById(db: Queryable, id: number): Promise<OutboxMessage | null> {
  const rows = await db.rows<OutboxMessage>(`select ${columns} from outbox where id = $1`, [id]);
  return rows[0] ?? null;
}

export async function noteSent(db: Queryable, id: number, at: Instant): Promise<void> {
  await db.rows(
    `update outbox set state = 'sent', sent_at = $2, attempts = attempts + 1, last_error = null where id = $1`,
    [id, at]
  );
}

export async function noteFailed(db: Queryable, id: number, error: string): Promise<void> {
  await db.rows(`update outbox set state = 'failed', attempts = attempts + 1, last_error = $2 where id = $1`, [
    id,
    error
  ]);
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

/** Who was told of an incident, in order. */
export async function messagesOfIncident(db: Queryable, incidentId: number): Promise<ToldMessage[]> {
  return db.rows<ToldMessage>(
    `select outbox.id, outbox.kind, channels.name as channel, channels.address, state, last_error as "lastError", outbox.created_at as "createdAt", sent_at as "sentAt"
     from outbox
     join channels on channels.id = outbox.channel_id
     where incident_id = $1
     order by outbox.id`,
    [incidentId]
  );
}

/** The newest message of each channel. */
export async function lastMessages(
  db: Queryable
): Promise<{ channelId: number; state: OutboxMessage['state']; lastError: string | null; createdAt: Instant }[]> {
  return db.rows(
    `select distinct on (channel_id) channel_id as "channelId", state, last_error as "lastError", created_at as "createdAt"
     from outbox
     order by channel_id, id desc`
  );
}
