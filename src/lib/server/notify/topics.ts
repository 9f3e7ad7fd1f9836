import type { NewChannel } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { removeChannel, subscribersOf, type Channel } from './channels';
import { addChannel, requireChannel, type ChannelContext, type Person } from './manage-channels';

/** Everybody who subscribes to one topic, of which each is a message when it is notified. */
const mostSubscribers = 500;

/** Adds whoever is to subscribe to a topic, and asks them. @throws Refusal `not-found` for what is no topic, `too-many-requests`, and as {@link addChannel} does */
export async function addSubscriber(
  context: ChannelContext,
  topicId: number,
  channel: NewChannel,
  by: Person
): Promise<Channel & { readonly signingSecret: string | null }> {
  const topic = await requireChannel(context.db, topicId);
  if (topic.kind !== 'topic')
    throw new Refusal('not-found', `${topic.name} is no topic.`, 'Subscribers are added to topics.');
  if ((await subscribersOf(context.db, topicId)).length >= mostSubscribers)
    throw new Refusal('invalid', `A topic has at most ${mostSubscribers} subscribers.`, 'Make a second topic.');
  return addChannel(context, channel, by, { topicId });
}

/** Ends a subscription. @throws Refusal `not-found` for what does not subscribe to the topic */
export async function removeSubscriber({ db }: Pick<Context, 'db'>, topicId: number, id: number): Promise<Channel> {
  const subscriber = (await subscribersOf(db, topicId)).find((one) => one.id === id);
  if (subscriber === undefined)
    throw new Refusal('not-found', 'There is no such subscriber.', 'They may have left. See the list.');
  await db.transaction((within) => removeChannel(within, id));
  return subscriber;
}
