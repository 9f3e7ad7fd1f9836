import { inOwnWords, messageOf, type Message } from '$lib/core/notify';
import type { Clock } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';
import { makeLink } from '../people/links';
import { profileOf } from '../people/people';
import { acknowledgeToken } from './acknowledge-links';
import { channelById, type Channel } from './channels';
import { renewCode, renewToken } from './channel-confirmation';
import { codeMessage, joinMessage, linkMessage, resetMessage, subscribeMessage } from './confirm';
import { leaveToken } from './leave-links';
import { messageTemplates } from './message-templates';
import { datesOf, type OutboxMessage } from './outbox';

interface Writer {
  readonly db: Queryable;
  readonly clock: Clock;
  readonly secrets: SecretBox;
  readonly origin: string;
}

/** What lets somebody in is made when it is sent: nothing that is stored holds it. */
export async function wordsOf(writer: Writer, message: OutboxMessage, channel: Channel): Promise<Message> {
  const words = await plainWordsOf(writer, message, channel);
  if (channel.topicId === null) return words;
  const leave = `${writer.origin}/leave/${leaveToken(writer.secrets, channel.id)}`;
  return { ...words, leave };
}

async function plainWordsOf(
  { db, clock, secrets, origin }: Writer,
  { id, content, personId }: OutboxMessage,
  channel: Channel
): Promise<Message> {
  const now = clock.now();
  if (content.kind === 'join' || content.kind === 'reset') {
    const person = personId === null ? null : await profileOf(db, personId);
    if (person === null) throw new Error('the person is not there any more');
    return content.kind === 'join'
      ? joinMessage(person, content.by, await makeLink(db, 'invitation', person.id, now), origin)
      : resetMessage(person.name, await makeLink(db, 'reset', person.id, now), origin);
  }
  if (content.kind !== 'confirm') {
    const acknowledge = `${origin}/a/${acknowledgeToken(secrets, id, now)}`;
    const dates = await datesOf(db, id);
    const message = messageOf(content, { zone: dates, now, origin, acknowledge });
    if (channel.kind === 'chat-hook' || channel.kind === 'webhook') return message;
    const templates = await messageTemplates(db);
    return templates === null
      ? message
      : inOwnWords(message, content, templates, { dates, now, short: channel.kind !== 'email' });
  }
  const topic = channel.topicId === null ? null : await channelById(db, channel.topicId);
  if (topic !== null)
    return channel.kind === 'email' || channel.kind === 'text-message'
      ? subscribeMessage(topic.name, channel, await renewToken(db, channel.id, now), origin)
      : codeMessage(channel, await renewCode(db, channel.id, now), origin, `/channels/${topic.id}`);
  return channel.kind === 'email'
    ? linkMessage(channel, await renewToken(db, channel.id, now), origin)
    : codeMessage(channel, await renewCode(db, channel.id, now), origin);
}
