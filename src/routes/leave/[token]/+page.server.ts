import { countMiss } from '$server/boards/link-limits';
import { asErrorPage } from '$server/http/pages';
import { channelById } from '$server/notify/channels';
import { subscriberOfToken } from '$server/notify/leave-links';
import { removeSubscriber } from '$server/notify/topics';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

/** The subscriber of a link with the topic; null for a link that never was one, and when they have left. */
async function subscriptionOf(token: string) {
  const { db, secrets } = bussola();
  const id = subscriberOfToken(secrets, token);
  const subscriber = id === null ? null : await channelById(db, id);
  const topic = subscriber?.topicId ? await channelById(db, subscriber.topicId) : null;
  return { isKnown: id !== null, subscription: subscriber && topic ? { subscriber, topic } : null };
}

/** Opening the link only shows what it is about: mail programs open links by themselves, leaving takes a press of the button, or the POST of a mail program (RFC 8058). */
export const load: PageServerLoad = async ({ params, locals }) => {
  const { isKnown, subscription } = await subscriptionOf(params.token);
  if (!isKnown) await countMiss(locals.address).catch(asErrorPage);
  return {
    isKnown,
    subscription: subscription && { topic: subscription.topic.name, address: subscription.subscriber.address }
  };
};

export const actions = {
  default: async ({ params, locals }) => {
    const { isKnown, subscription } = await subscriptionOf(params.token);
    if (!isKnown) await countMiss(locals.address).catch(asErrorPage);
    // Whoever has left already is not told otherwise.
    if (subscription === null) return { left: null };
    const { topic, subscriber } = subscription;
    await removeSubscriber(bussola(), topic.id, subscriber.id).catch(asErrorPage);
    bussola().changes.tell('outbox', { channelId: topic.id });
    return { left: topic.name };
  }
} satisfies Actions;
