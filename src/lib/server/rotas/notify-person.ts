import type { MessageContent } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';
import type { Delivery } from '../notify/deliver';

/** Messages about the watch leave before tests and after incidents. */
const urgency = 8;

/**
 * Queues a message to a person by their confirmed e-mail addresses, or by text message where they have none; to be called in a transaction.
 *
 * @returns whether anything of theirs is confirmed
 */
export async function notifyPerson(
  within: Queryable,
  delivery: Delivery,
  personId: number,
  content: Extract<MessageContent, { kind: 'note' }>,
  createdAt: Instant
): Promise<boolean> {
  const own = (await allChannels(within)).filter(
    (channel) => channel.personId === personId && channel.confirmedAt !== null
  );
  const mail = own.filter(({ kind }) => kind === 'email');
  const used = mail.length > 0 ? mail : own.filter(({ kind }) => kind === 'text-message');
  for (const { id } of used)
    await delivery.enqueue(within, {
      ...{ channelId: id, personId, content, createdAt, incidentId: null, alarmId: null, priority: urgency }
    });
  return used.length > 0;
}
