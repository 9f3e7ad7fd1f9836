// outbox, delivery_attempts
import { readStored, writeStored } from '$lib/core/forms/stored';
import { contentForm, messageOf, type SentKind, type MessageContent, type SecretKind } from '$lib/core/notify';
import { isZone, type Duration, type Instant, isDateLocale, type DateLocale } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** What messages are about. */
export const messageKinds = [
  'confirm',
  'raised',
  'cleared',
  'passed',
  'dismissed',
  'grouped',
  'unjudged',
  'note',
  'summary',
  'join',
  'reset',
  'test'
] as const;
export type MessageKind = (typeof messageKinds)[number];

export interface OutboxMessage {
  readonly id: number;
  /** Null when the channel has been removed since. */
  readonly channelId: number | null;
  /** Of a message about one incident. */
  readonly incidentId: number | null;
  /** The conversation that it belongs to; null for none. */
  readonly threadId: number | null;
  /** Of a message about an alarm itself. */
  readonly alarmId: number | null;
  readonly kind: MessageKind;
  /** The same for every try to send it, a UUID. */
  readonly key: string;
  /** What it says in one line, in UTC: for lists. */
  readonly subject: string;
  readonly content: MessageContent;
  /** The more urgent, the higher. */
  readonly priority: number;
  readonly state: 'queued' | 'sent' | 'failed' | 'superseded' | 'withdrawn';
  readonly attempts: number;
  /** Why the newest try failed; null before any did. */
  readonly lastError: string | null;
  readonly createdAt: Instant;
  readonly sentAt: Instant | null;
  /** Whoever is reached by it, of a message to a person. */
  readonly personId: number | null;
  /** Before which it does not leave; null for at once. */
  readonly holdUntil: Instant | null;
}

export type NewMessage = Pick<OutboxMessage, 'incidentId' | 'alarmId' | 'content' | 'priority' | 'createdAt'> & {
  readonly channelId: number;
  readonly threadId?: number;
  readonly routeId?: number;
  /** All incidents that it is about; by default the one. */
  readonly incidentIds?: readonly number[];
  readonly personId?: number | null;
  readonly holdUntil?: Instant | null;
};

const columns = `id, channel_id as "channelId", incident_id as "incidentId", thread_id as "threadId", alarm_id as "alarmId", kind, key, subject, content, priority, state, attempts,
  last_error as "lastError", created_at as "createdAt", sent_at as "sentAt", person_id as "personId", hold_until as "holdUntil"`;

type Row = Omit<OutboxMessage, 'content'> & { readonly content: unknown };

/** @throws ZodError for content that could not be read again */
export async function insertMessage(db: Queryable, message: NewMessage): Promise<number> {
  const { createdAt } = message;
  const content = contentForm.schema.parse(message.content);
  const rows = await db.rows<{ id: number }>(
    `insert into outbox (channel_id, channel_name, address, incident_id, alarm_id, kind, subject, content, priority, created_at, thread_id, incident_ids, person_id, route_id, hold_until)
     select id, name, address, $2::integer, $3::integer, $4, $5, $6::jsonb, $7::integer, $8::bigint, $9::integer, $10::integer[], $11::integer, $12::integer, $13::bigint
     from channels
     where id = $1
     returning id`,
    [
      message.channelId,
      message.incidentId,
      message.alarmId,
      kindOf(content),
      subjectOf(content, createdAt),
      writeStored(contentForm, content),
      message.priority,
      createdAt,
      message.threadId ?? null,
      message.incidentIds ?? (message.incidentId === null ? [] : [message.incidentId]),
      message.personId ?? null,
      message.routeId ?? null,
      message.holdUntil ?? null
    ]
  );
  return oneRow(rows).id;
}

const kindOf = (content: MessageContent): MessageKind =>
  content.kind === 'incident' ? content.news : content.kind === 'written' ? 'raised' : content.kind;

/** What messages with a secret are called in lists. */
const secretSubjects: Readonly<Record<SecretKind, string>> = {
  confirm: 'Confirm that Bussola may send alarms here',
  join: 'Invitation to Bussola',
  reset: 'Set a new password for Bussola'
};

const subjectOf = (content: MessageContent, now: Instant): string =>
  content.kind === 'confirm' || content.kind === 'join' || content.kind === 'reset'
    ? secretSubjects[content.kind]
    : messageOf(content, { zone: 'UTC', now, origin: '' }).subject;

export async function messageById(db: Queryable, id: number): Promise<OutboxMessage | null> {
  const rows = await db.rows<Row>(`select ${columns} from outbox where id = $1`, [id]);
  return rows[0] ? { ...rows[0], content: readStored(contentForm, rows[0].content, rows[0].subject) } : null;
}

/** What a message has in common with those that leave before or after it: all of one conversation to one channel. */
export async function orderOf(db: Queryable, id: number): Promise<string> {
  const [row] = await db.rows<{ incidentId: number | null; threadId: number | null; channelId: number | null }>(
    'select incident_id as "incidentId", thread_id as "threadId", channel_id as "channelId" from outbox where id = $1',
    [id]
  );
  if (row?.threadId) return `thread ${row.threadId}/${row.channelId}`;
  return row?.incidentId ? `${row.incidentId}/${row.channelId}` : `message ${id}`;
}

/** How whoever receives a message reads dates: of a channel of all, in the zone of its route. */
export async function datesOf(db: Queryable, id: number): Promise<{ zone: string; locale: DateLocale }> {
  const [row] = await db.rows<{ zone: string | null; locale: string | null }>(
    `select coalesce(people.zone, routes.definition ->> 'zone') as zone, people.date_locale as locale
     from outbox
     left join people on people.id = outbox.person_id
     left join routes on routes.id = outbox.route_id
     where outbox.id = $1`,
    [id]
  );
  return {
    zone: row?.zone && isZone(row.zone) ? row.zone : 'UTC',
    locale: row?.locale && isDateLocale(row.locale) ? row.locale : 'en'
  };
}

/** The incidents of a message and whoever received it, for acknowledging them by its link; null when it is gone. */
export async function acknowledgedBy(
  db: Queryable,
  id: number
): Promise<{
  readonly incidentIds: readonly number[];
  readonly subject: string;
  readonly by: string;
  readonly usedAt: Instant | null;
} | null> {
  const [row] = await db.rows<{ incidentIds: number[]; subject: string; by: string; usedAt: Instant | null }>(
    `select incident_ids as "incidentIds", subject, coalesce(people.display_name, channel_name) as by, link_used_at as "usedAt"
     from outbox
     left join people on people.id = outbox.person_id
     where outbox.id = $1`,
    [id]
  );
  return row ?? null;
}

/** Notes that the link of a message was used. @returns whether it was not before */
export async function useLink(within: Queryable, id: number, at: Instant): Promise<boolean> {
  const rows = await within.rows(
    'update outbox set link_used_at = $2 where id = $1 and link_used_at is null returning id',
    [id, at]
  );
  return rows.length > 0;
}

/** One try to send a message. */
export interface Attempt {
  readonly at: Instant;
  readonly took: Duration;
  readonly request: string;
  readonly answer: string;
  /** Why it was not taken; null when it was. */
  readonly error: string | null;
}

/** Tries of one message that are stored, the newest: one that waits for a day is tried 150 times. */
const mostAttempts = 20;

/** Notes a try. What does not fit is cut. */
export async function noteAttempt(db: Queryable, outboxId: number, attempt: Attempt): Promise<void> {
  const storable = (text: string) => text.slice(0, 10_000).toWellFormed().replaceAll('\0', '');
  await db.rows(
    `insert into delivery_attempts (outbox_id, at, took_ms, request, answer, error) values ($1, $2, $3, $4, $5, $6)`,
    [
      outboxId,
      attempt.at,
      Math.round(attempt.took),
      storable(attempt.request),
      storable(attempt.answer),
      attempt.error === null ? null : storable(attempt.error)
    ]
  );
  await db.rows(
    `delete from delivery_attempts
     where outbox_id = $1
       and id <= (select id from delivery_attempts where outbox_id = $1 order by id desc offset $2 limit 1)`,
    [outboxId, mostAttempts]
  );
}

/** The newest tries to send a message, in order. */
export async function attemptsOf(db: Queryable, outboxId: number, most = mostAttempts): Promise<Attempt[]> {
  const rows = await db.rows<Attempt>(
    `select at, took_ms as took, request, answer, error from delivery_attempts where outbox_id = $1 order by id desc limit $2`,
    [outboxId, most]
  );
  return rows.reverse();
}

/** The newest test of each channel that was tested. */
export const lastTests = (db: Queryable): Promise<{ id: number; channelId: number }[]> =>
  db.rows(
    `select distinct on (channel_id) id, channel_id as "channelId"
     from outbox
     where kind = 'test' and channel_id is not null
     order by channel_id, id desc`
  );

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

/** Queues a message that failed as if it were new. @returns its priority and the kind of its channel; null when none of that id has failed */
export async function queueAgain(
  db: Queryable,
  id: number,
  at: Instant
): Promise<{ priority: number; kind: SentKind } | null> {
  const rows = await db.rows<{ priority: number; kind: SentKind }>(
    `update outbox
     set state = 'queued', attempts = 0, created_at = $2
     from channels
     where outbox.id = $1 and state = 'failed' and channels.id = channel_id
     returning priority, channels.kind`,
    [id, at]
  );
  return rows[0] ?? null;
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
