import { channelKindWords, type NewChannel, type NewTopic } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import type { SecretBox } from '../base/secrets';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import {
  channelById,
  draftOf,
  insertChannel,
  rotateSecret,
  secretOfChannel,
  subscribersOf,
  type Channel
} from './channels';
import { confirmByCode } from './channel-confirmation';
import { confirmRequest } from './confirm';
import type { ConfirmationLimits } from './confirmation-limits';
import type { Delivery } from './deliver';
import { chatTemplateProblem } from './senders/chat-hook/chat-body';

export interface ChannelContext extends Pick<Context, 'db' | 'clock' | 'changes'> {
  readonly secrets: SecretBox;
  readonly delivery: Delivery;
  readonly confirmations: ConfirmationLimits;
}

/** Who does it. */
export interface Person {
  readonly id: number | null;
  readonly displayName: string;
}

/**
 * Adds a channel and sends what confirms it: a link by mail, a code to all others.
 *
 * @param of the topic that it is to subscribe to, or the person whose own it is; none for a channel that routes name
 * @returns the channel, and of a webhook the secret to verify with, shown once
 * @throws Refusal `name-taken` for a channel with that address, `invalid` for a template that cannot be used, `too-many-requests`
 */
export async function addChannel(
  { db, clock, delivery, confirmations, secrets }: ChannelContext,
  channel: NewChannel | NewTopic,
  by: Person,
  of: { readonly topicId?: number; readonly personId?: number } = {}
): Promise<Channel & { readonly signingSecret: string | null }> {
  if (channel.kind === 'chat-hook' && channel.template.trim() !== '') {
    const why = chatTemplateProblem(channel.template);
    if (why !== null) throw new Refusal('invalid', why, '', { path: ['template'] });
  }
  if (channel.kind !== 'topic') await maySend(confirmations, by, channel.address);
  return db.transaction(async (within) => {
    const at = clock.now();
    const draft = draftOf(channel);
    const made = await insertChannel(within, secrets, draft, { at, by: by.displayName, ...of });
    // A topic asks nobody: each of its subscribers is asked.
    if (channel.kind !== 'topic') await delivery.enqueue(within, confirmRequest(made.id, at));
    return { ...made, signingSecret: draft.secret.secrets?.[0]?.secret ?? null };
  });
}

/** Sends what confirms a channel once more. @throws Refusal `not-found`, `too-many-requests` */
export async function sendConfirmation(
  { db, clock, delivery, confirmations }: ChannelContext,
  id: number,
  by: Person
): Promise<Channel> {
  const channel = await requireChannel(db, id);
  if (channel.kind === 'topic' || channel.kind === 'push')
    throw new Refusal(
      'invalid',
      `A ${channelKindWords[channel.kind]} is not asked.`,
      'Add a subscriber, or set the device up anew.'
    );
  await maySend(confirmations, by, channel.address);
  await delivery.enqueue(db, confirmRequest(channel.id, clock.now()));
  return channel;
}

/** Confirms a channel by the code that was sent to it. @throws Refusal `not-found`, `invalid` for another code or one that has expired */
export async function confirmWithCode(
  { db, clock, changes }: Pick<ChannelContext, 'db' | 'clock' | 'changes'>,
  id: number,
  code: string
): Promise<Channel> {
  await requireChannel(db, id);
  if (!(await confirmByCode(db, id, code.replace(/\s/g, ''), clock.now())))
    throw new Refusal(
      'invalid',
      'This is not the code that was sent last, or it has expired.',
      'Check it. A code is good for half an hour and for five tries: send a new one if in doubt.'
    );
  changes.tell('outbox', { channelId: id });
  return requireChannel(db, id);
}

/** Sends a test to a channel that is confirmed. @returns the id of its message @throws Refusal `not-found`, `not-confirmed`, `too-many-requests` */
export async function sendTest(
  { db, clock, delivery, confirmations }: ChannelContext,
  id: number,
  by: Person
): Promise<number> {
  const channel = await requireChannel(db, id);
  if (channel.confirmedAt === null)
    throw new Refusal(
      'not-confirmed',
      `${channel.name} is not confirmed, so nothing is sent to it.`,
      'Confirm it first: by the link in the mail, or by the code that was sent.'
    );
  await maySend(confirmations, by, channel.address, 'test');
  const receivers =
    channel.kind === 'topic'
      ? (await subscribersOf(db, id)).filter(({ confirmedAt }) => confirmedAt !== null)
      : [channel];
  const [first, ...others] = receivers;
  if (first === undefined) throw noSuchChannel(); // everybody has left meanwhile
  const send = (within: Queryable, channelId: number): Promise<number> =>
    delivery.enqueue(within, {
      ...{ channelId, incidentId: null, alarmId: null, priority: 20, createdAt: clock.now() },
      content: { kind: 'test', by: by.displayName }
    });
  return db.transaction(async (within) => {
    const sent = await send(within, first.id);
    for (const { id: channelId } of others) await send(within, channelId);
    return sent;
  });
}

/** Gives a webhook a new secret to sign with; the one before still counts for a day. @returns the new one, shown once @throws Refusal `not-found` */
export async function renewSecret(
  { db, clock, secrets }: Pick<ChannelContext, 'db' | 'clock' | 'secrets'>,
  id: number
): Promise<string> {
  const channel = await requireChannel(db, id);
  if ((await secretOfChannel(db, secrets, channel.id)).secrets === undefined) throw noSuchChannel();
  return db.transaction((within) => rotateSecret(within, secrets, id, clock.now()));
}

/** @throws Refusal `not-found` */
export async function requireChannel(db: Context['db'], id: number): Promise<Channel> {
  const channel = await channelById(db, id);
  if (channel === null) throw noSuchChannel();
  return channel;
}

/** Counts what is sent to an address for somebody. @throws Refusal `too-many-requests` */
export async function maySend(
  confirmations: ConfirmationLimits,
  by: Person,
  address: string,
  what: 'confirmation' | 'test' = 'confirmation'
): Promise<void> {
  const wait = await confirmations.take(by.id ?? 0, address, what);
  if (wait !== null) throw new Refusal('too-many-requests', wait, '');
}

const noSuchChannel = (): Refusal =>
  new Refusal('not-found', 'There is no such channel.', 'It may have been removed. See the list of channels.');
