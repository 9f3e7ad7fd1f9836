import type { z } from 'zod';
import type { channelFormSchema } from '$lib/core/forms/forms';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { channelById, insertEmailChannel, removeChannel as deleteChannel, type Channel } from '../notify/channels';
import { confirmMessage } from '../notify/confirm';
import type { ConfirmationLimits } from '../notify/confirmation-limits';
import type { Delivery } from '../notify/deliver';
import { allAlarms } from './alarms';

interface ChannelContext extends Pick<Context, 'db' | 'clock'> {
  readonly delivery: Delivery;
  readonly confirmations: ConfirmationLimits;
}

interface Person {
  readonly id: number | null;
  readonly displayName: string;
}

/**
 * Adds an e-mail channel and sends the link that confirms it.
 *
 * @throws Refusal `name-taken` for a channel with that address, `too-many-requests`
 */
export async function addChannel(
  { db, clock, delivery, confirmations }: ChannelContext,
  channel: z.infer<typeof channelFormSchema>,
  by: Person
): Promise<Channel> {
  await mayConfirm(confirmations, by, channel.address);
  return db.transaction(async (within) => {
    const createdAt = clock.now();
    const made = await insertEmailChannel(within, { ...channel, createdAt, createdBy: by.displayName });
    await delivery.enqueue(within, confirmMessage(made.id, channel.address, createdAt));
    return made;
  });
}

/** Sends the link that confirms a channel once more. @throws Refusal `not-found`, `too-many-requests` */
export async function sendConfirmation(
  { db, clock, delivery, confirmations }: ChannelContext,
  id: number,
  by: Person
): Promise<Channel> {
  const channel = await channelById(db, id);
  if (channel === null) throw noSuchChannel();
  await mayConfirm(confirmations, by, channel.address);
  await delivery.enqueue(db, confirmMessage(channel.id, channel.address, clock.now()));
  return channel;
}

/** Removes a channel; the messages that were sent to it stay in the history under its name. @throws Refusal `in-use` naming the alarms that notify it */
export async function removeChannel({ db }: Pick<Context, 'db'>, id: number): Promise<void> {
  const users = (await allAlarms(db)).filter(({ definition }) => definition.channels.includes(id));
  if (users.length > 0)
    throw new Refusal(
      'in-use',
      `These alarms notify the channel: ${users.map(({ definition }) => definition.name).join(', ')}.`,
      'Take it out of them first.'
    );
  await db.transaction((within) => deleteChannel(within, id));
}

async function mayConfirm(confirmations: ConfirmationLimits, by: Person, address: string): Promise<void> {
  const wait = await confirmations.take(by.id ?? 0, address);
  if (wait !== null) throw new Refusal('too-many-requests', wait, '');
}

const noSuchChannel = (): Refusal =>
  new Refusal('not-found', 'There is no such channel.', 'It may have been removed. See the list of channels.');
