import { createHash } from 'node:crypto';
import webpush from 'web-push';
import { holdsSecret, shortText, type Message } from '$lib/core/notify';
import type { Outbound } from '../../../providers/port/outbound';
import type { PushKeys } from '../../push-keys';
import { postMessage } from '../post';
import { Gone, NotTaken, type Outgoing, type Sender } from '../sender';

/** How long the push service holds a notification for a device that is off, seconds: what is older than the night is found on Watch. */
const heldFor = 12 * 3600;
/** Characters of the sentence that a notification shows: what is encrypted has room for no more than 4 kB. */
const mostShown = 500;

/**
 * Sends notifications to browsers (RFC 8030), encrypted for the device (RFC 8291) and signed with the keys of this Bussola (RFC 8292).
 *
 * @param keys read when they are first needed
 * @param origin Bussola's own address, which the push service may turn to
 * @throws Gone when the device no longer takes notifications
 * @example await pushSender(call, () => pushKeys(db, secrets), 'https://bussola.example.test').send(outgoing)
 */
export const pushSender = (call: Outbound, keys: () => Promise<PushKeys>, origin: string): Sender => ({
  send: async ({ channel, secret, message, content, thread, key }) => {
    if (secret.subscription === undefined) throw new Error(`${channel.name} has no subscription.`);
    const payload = JSON.stringify({ ...shownOf(message), tag: thread ?? key });
    const { publicKey, privateKey } = await keys();
    const { endpoint, headers, body } = webpush.generateRequestDetails(secret.subscription, payload, {
      vapidDetails: { subject: contactOf(origin), publicKey, privateKey },
      TTL: heldFor,
      urgency: isUrgent(content) ? 'high' : 'normal',
      // While the device is off, a newer message of a conversation takes the place of the one before.
      topic: topicOf(thread ?? key),
      contentEncoding: 'aes128gcm'
    });
    const shownUrl = new URL(endpoint).origin;
    try {
      return await postMessage(call, {
        url: endpoint,
        ...{ shownUrl, body: new Uint8Array(body), shownBody: holdsSecret(content.kind) ? '' : payload },
        headers: Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]))
      });
    } catch (error) {
      if (error instanceof NotTaken && /^(404|410) /.test(error.exchange.answer))
        throw new Gone('The device no longer takes notifications. Set it up anew in your profile.', error.exchange);
      throw error;
    }
  },
  close: () => undefined
});

/** What a notification shows, and what it opens. */
const shownOf = (message: Message) => ({
  title: shortText({ subject: message.subject, link: '' }).trim(),
  body: [...message.sentence].slice(0, mostShown).join(''),
  link: message.link,
  ...(message.acknowledge !== undefined && { acknowledge: message.acknowledge })
});

const isUrgent = (content: Outgoing['content']): boolean =>
  content.kind === 'unjudged' ||
  (content.kind === 'incident' && content.news === 'raised') ||
  (content.kind === 'grouped' && content.incidents.some(({ news }) => news === 'raised'));

/** A topic has at most 32 letters of base64url. */
const topicOf = (text: string): string => createHash('sha256').update(text).digest('base64url').slice(0, 32);

/** Whom a push service may turn to. The standard wants https or mailto. */
const contactOf = (origin: string): string =>
  origin.startsWith('https:') ? origin : `mailto:bussola@${new URL(origin).hostname}`;
