// channels
import { createHash, randomBytes } from 'node:crypto';
import {
  channelSettingsForm,
  type ChannelKind,
  type ChannelSettings,
  type NewChannel,
  type NewTopic,
  type PushSubscription,
  type SentKind
} from '$lib/core/notify';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { Refusal, type Problem } from '$lib/core/problem/problem';
import { day, type Instant } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import { isTaken, oneRow, type Queryable } from '../db/pool';

export interface Channel {
  readonly id: number;
  readonly kind: ChannelKind;
  readonly name: string;
  /** As people see it: of a chat hook, whose whole address is a secret, its host and a few letters that tell it from others. */
  readonly address: string;
  readonly settings: ChannelSettings;
  readonly confirmSentAt: Instant | null;
  /** When whoever reads the channel agreed to receive; null while unconfirmed. */
  readonly confirmedAt: Instant | null;
  readonly createdAt: Instant;
  readonly createdBy: string;
  /** Whoever is reached by it; null for a channel of all. */
  readonly personId: number | null;
  /** The topic that it subscribes to; null for what routes name. */
  readonly topicId: number | null;
}

/** What nobody may read of a channel. */
export interface ChannelSecret {
  /** The whole address of a chat hook. */
  readonly url?: string;
  /** What a webhook signs with, the newest first; one that was replaced still counts until an instant. */
  readonly secrets?: readonly { readonly secret: string; readonly until: Instant | null }[];
  /** What a browser gave that shows notifications. */
  readonly subscription?: PushSubscription;
}

/** A topic is confirmed when anybody who subscribes to it has confirmed. */
const columns = `id, kind, name, address, settings, confirm_sent_at as "confirmSentAt",
  case when kind = 'topic' then (select min(subscriber.confirmed_at) from channels as subscriber where subscriber.topic_id = channels.id) else confirmed_at end as "confirmedAt", created_at as "createdAt", created_by as "createdBy", person_id as "personId", topic_id as "topicId"`;

type Row = Omit<Channel, 'settings'> & { readonly settings: unknown };
const channelFrom = (row: Row): Channel => ({
  ...row,
  settings: readStored(channelSettingsForm, row.settings, row.name)
});

/** What routes may notify: those that subscribe to topics are left out. */
export const allChannels = async (db: Queryable): Promise<Channel[]> =>
  readableOf(
    await db.rows<Row>(`select ${columns} from channels where topic_id is null order by name, id`),
    channelFrom
  );

/** Whoever subscribes to a topic, or to any. */
export const subscribersOf = async (db: Queryable, topicId: number | null = null): Promise<Channel[]> =>
  readableOf(
    await db.rows<Row>(
      `select ${columns} from channels where topic_id is not null and ($1::integer is null or topic_id = $1) order by id`,
      [topicId]
    ),
    channelFrom
  );

/** Why some channels cannot be read. */
export const unreadableChannels = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await db.rows<Row>(`select ${columns} from channels`), channelFrom);

/** Those of some ids that no channel has. */
export async function unknownChannels(db: Queryable, ids: readonly number[]): Promise<number[]> {
  const rows = await db.rows<{ id: number }>('select id from channels where id = any($1::integer[])', [ids]);
  return ids.filter((id) => !rows.some((row) => row.id === id));
}

export async function channelById(db: Queryable, id: number): Promise<Channel | null> {
  const rows = await db.rows<Row>(`select ${columns} from channels where id = $1`, [id]);
  return rows[0] ? channelFrom(rows[0]) : null;
}

/** A channel that messages are sent to. */
export interface SentChannel extends Channel {
  readonly kind: SentKind;
}

/** A channel that messages are sent to; null for a topic, of which its subscribers are such channels. */
export async function sentChannelById(db: Queryable, id: number): Promise<SentChannel | null> {
  const channel = await channelById(db, id);
  return channel === null || channel.kind === 'topic' ? null : { ...channel, kind: channel.kind };
}

/** What nobody may read of a channel; nothing for one without a secret. */
export async function secretOfChannel(db: Queryable, secrets: SecretBox, id: number): Promise<ChannelSecret> {
  const [row] = await db.rows<{ sealed: Buffer | null }>('select sealed from channels where id = $1', [id]);
  return row?.sealed ? (JSON.parse(secrets.open(row.sealed)) as ChannelSecret) : {};
}

/** Secrets of channels as they are sealed. */
export const sealedOfChannels = async (db: Queryable): Promise<Buffer[]> =>
  (await db.rows<{ sealed: Buffer }>('select sealed from channels where sealed is not null order by id')).map(
    ({ sealed }) => sealed
  );

/** What is stored of a new channel. */
interface ChannelDraft {
  readonly kind: ChannelKind;
  readonly name: string;
  readonly address: string;
  readonly settings: ChannelSettings;
  readonly secret: ChannelSecret;
}

/**
 * A channel as a person entered it, with what is secret of it apart. A webhook gets a secret to sign with.
 *
 * @example draftOf({ kind: 'email', name: 'Night', address: 'night@example.test' }).address // 'night@example.test'
 */
export function draftOf(channel: NewChannel | NewTopic): ChannelDraft {
  const { kind, name } = channel;
  if (kind === 'topic') return { kind, name, address: `topic ${name.toLowerCase()}`, settings: {}, secret: {} };
  const { address } = channel;
  if (kind === 'chat-hook') {
    const mark = createHash('sha256').update(address).digest('hex').slice(0, 6);
    const template = channel.template.trim();
    return {
      ...{ kind, name, secret: { url: address }, address: `${new URL(address).host}/… (${mark})` },
      settings: template === '' ? {} : { template }
    };
  }
  if (kind === 'webhook')
    return {
      ...{ kind, name, address, settings: { mode: channel.mode } },
      secret: { secrets: [{ secret: newSecret(), until: null }] }
    };
  return { kind, name, address, settings: {}, secret: {} };
}

/**
 * Adds a channel, unconfirmed. What confirms it is made when it is sent.
 *
 * @throws Refusal when a channel has that address
 */
export async function insertChannel(
  db: Queryable,
  secrets: SecretBox,
  { kind, name, address, settings, secret }: ChannelDraft,
  {
    at,
    by,
    personId = null,
    topicId = null
  }: {
    readonly at: Instant;
    readonly by: string;
    readonly personId?: number | null;
    readonly topicId?: number | null;
  }
): Promise<Channel> {
  const sealed = Object.keys(secret).length === 0 ? null : secrets.seal(JSON.stringify(secret));
  return insertRow(db, { kind, name, address, settings, sealed, at, by, personId, topicId });
}

/** Adds an e-mail channel, which has no secret. @throws Refusal as {@link insertChannel} */
export const insertEmailChannel = (
  db: Queryable,
  {
    name,
    address,
    createdAt,
    createdBy,
    personId = null
  }: { name: string; address: string; createdAt: Instant; createdBy: string; personId?: number | null }
): Promise<Channel> =>
  insertRow(db, {
    ...{ kind: 'email', name, address, settings: {}, sealed: null, at: createdAt, by: createdBy, personId },
    topicId: null
  });

async function insertRow(
  db: Queryable,
  {
    kind,
    name,
    address,
    settings,
    sealed,
    at,
    by,
    personId,
    topicId
  }: Omit<ChannelDraft, 'secret'> & {
    readonly sealed: Buffer | null;
    readonly at: Instant;
    readonly by: string;
    readonly personId: number | null;
    readonly topicId: number | null;
  }
): Promise<Channel> {
  try {
    const rows = await db.rows<Row>(
      `insert into channels (kind, name, address, settings, sealed, confirm_hash, confirm_sent_at, created_at, created_by, person_id, topic_id)
       values ($1, $2, $3, $4::jsonb, $5, $6, null, $7, $8, $9, $10)
       returning ${columns}`,
      [
        kind,
        name,
        address,
        writeStored(channelSettingsForm, settings),
        sealed,
        unguessable(),
        at,
        by,
        personId,
        topicId
      ]
    );
    return channelFrom(oneRow(rows));
  } catch (error) {
    if (isTaken(error))
      throw new Refusal(
        'name-taken',
        topicId === null ? `There is a channel to ${address} already.` : `${address} subscribes to it already.`,
        topicId === null ? 'Use that one, or give another address.' : 'Nothing needs to be done, or give another.',
        {
          cause: error
        }
      );
    throw error;
  }
}

/** Gives a channel that messages are posted to another address; what it signs with stays. */
export async function changeAddress(db: Queryable, secrets: SecretBox, id: number, channel: NewChannel): Promise<void> {
  const { address, secret } = draftOf(channel);
  const known = await secretOfChannel(db, secrets, id);
  const next = { ...secret, ...(known.secrets && { secrets: known.secrets }) };
  await db.rows('update channels set address = $2, sealed = $3 where id = $1', [
    id,
    address,
    secrets.seal(JSON.stringify(next))
  ]);
}

/** Secrets that a webhook signed with before still count for so long, so that receivers can be changed one after the other. */
const overlap = day;

/** Gives a webhook a new secret to sign with; those before still count for a day. @returns the new one, shown once */
export async function rotateSecret(db: Queryable, secrets: SecretBox, id: number, now: Instant): Promise<string> {
  const known = (await secretOfChannel(db, secrets, id)).secrets ?? [];
  const secret = newSecret();
  const older = known
    .map((one) => ({ ...one, until: one.until ?? ((now + overlap) as Instant) }))
    .filter(({ until }) => until > now);
  const next: ChannelSecret = { secrets: [{ secret, until: null }, ...older] };
  await db.rows('update channels set sealed = $2 where id = $1', [id, secrets.seal(JSON.stringify(next))]);
  return secret;
}

/** Makes a channel a person's own way to be reached; null makes it one of all. */
export async function giveChannel(db: Queryable, id: number, personId: number | null): Promise<void> {
  await db.rows('update channels set person_id = $2 where id = $1', [id, personId]);
}

/** Removes a channel. Its messages stay, those that have not left are withdrawn; to be called in a transaction. */
export async function removeChannel(within: Queryable, id: number): Promise<void> {
  await within.rows(
    `update outbox set state = 'withdrawn' where channel_id in (select id from channels where id = $1 or topic_id = $1) and state in ('queued', 'failed')`,
    [id]
  );
  await within.rows('delete from channels where id = $1', [id]);
}

/** A secret in the form of Standard Webhooks. */
const newSecret = (): string => `whsec_${randomBytes(32).toString('base64')}`;
/** What confirms a channel before it was sent anything: nothing that anybody knows. */
const unguessable = (): Buffer => randomBytes(32);
