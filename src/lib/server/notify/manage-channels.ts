import type { NewChannel } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import type { SecretBox } from '../base/secrets';
import type { Context } from '../db/context';
import {
  channelById,
  confirmByCode,
  draftOf,
  insertChannel,
  rotateSecret,
  secretOfChannel,
  type Channel
} from './channels';
import { confirmRequest } from './confirm';
import type { ConfirmationLimits } from './confirmation-limits';
import type { Delivery } from './deliver';
import { chatTemplateProblem } from './senders/chat-hook/chat-body';

interface ChannelContext extends Pick<Context, 'db' | 'clock' | 'changes'> {
  readonly secrets: SecretBox;
  readonly delivery: Delivery;
  readonly confirmations: ConfirmationLimits;
}

interface Person {
  readonly id: number | null;
  readonly displayName: string;
}

/**
 * Adds a channel and sends what confirms it: a link by mail, a code to all others.
 *
 * @returns the channel, and of a webhook the secret to verify with, shown once
 * @throws Refusal `name-taken` for a channel with that address, `invalid` for a template that cannot be used, `too-many-requests`
 */
export async function addChannel(
  { db, clock, delivery, confirmations, secrets }: ChannelContext,
  channel: NewChannel,
  by: Person
): Promise<Channel & { readonly signingSecret: string | null }> {
  if (channel.kind === 'chat-hook' && channel.template.trim() !== '') {
    const why = chatTemplateProblem(channel.template);
    if (why !== null) throw new Refusal('invalid', why, '', { path: ['template'] });
  }
  await maySend(confirmations, by, channel.address);
  return db.transaction(async (within) => {
    const at = clock.now();
    const draft = draftOf(channel);
    const made = await insertChannel(within, secrets, draft, { at, by: by.displayName });
    await delivery.enqueue(within, confirmRequest(made.id, at));
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
  const channel = await requireChannel(db, id);
  if (!(await confirmByCode(db, id, code.replace(/\s/g, ''), clock.now())))
    throw new Refusal(
      'invalid',
      'This is not the code that was sent last, or it has expired.',
      'Check it. A code is good for half an hour and for five tries: send a new one if in doubt.'
    );
  changes.tell('outbox', { channelId: id });
  return channel;
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
  return delivery.enqueue(db, {
    ...{ channelId: id, incidentId: null, alarmId: null, priority: 20, createdAt: clock.now() },
    content: { kind: 'test', by: by.displayName }
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

async function requireChannel(db: Context['db'], id: number): Promise<Channel> {
  const channel = await channelById(db, id);
  if (channel === null) throw noSuchChannel();
  return channel;
}

async function maySend(
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
