import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { addressedChannelSchema, channelKinds, newChannelSchema } from '$lib/core/notify';
import { allChannels, subscribersOf } from '../notify/channels';
import { addChannel, confirmWithCode, sendTest } from '../notify/manage-channels';
import { addSubscriber, removeSubscriber } from '../notify/topics';
import { removeChannel } from '../routing/remove-channel';
import { idParams, instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Channels');

const channelAnswer = z.object({
  id: z.int(),
  kind: z.enum(channelKinds),
  name: z.string(),
  address: z.string().describe('As people see it: of a chat hook, without what is secret.'),
  confirmSentAt: instant.nullable(),
  confirmedAt: instant.nullable(),
  createdAt: instant,
  createdBy: z.string()
});

export const channelOperations = [
  operation('GET', '/channels', {
    list: wholeList('channels'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists channels and whether each is confirmed.',
    answer: z.object({ channels: z.array(channelAnswer) }),
    handle: async ({ server: { db } }) => ({ channels: await allChannels(db) })
  }),
  operation('POST', '/channels', {
    right: 'editor',
    summary: 'Adds a channel and sends the link or the code that confirms it.',
    body: newChannelSchema,
    answer: channelAnswer.extend({
      signingSecret: z.string().nullable().describe('Of a webhook: what verifies its signatures, shown this once.')
    }),
    status: 201,
    handle: ({ server, body, author }) => addChannel(server, body, author)
  }),
  operation('GET', '/channels/{id}/subscribers', {
    list: wholeList('subscribers'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists whoever subscribes to a topic.',
    answer: z.object({ subscribers: z.array(channelAnswer) }),
    handle: async ({ server: { db }, params: { id } }) => ({ subscribers: await subscribersOf(db, id) })
  }),
  operation('POST', '/channels/{id}/subscribers', {
    right: 'editor',
    summary: 'Adds a subscriber to a topic and sends the link or the code by which they agree.',
    body: addressedChannelSchema,
    answer: channelAnswer.extend({
      signingSecret: z.string().nullable().describe('Of a webhook: what verifies its signatures, shown this once.')
    }),
    status: 201,
    handle: ({ server, params: { id }, body, author }) => addSubscriber(server, id, body, author)
  }),
  operation('DELETE', '/channels/{id}/subscribers/{subscriber}', {
    right: 'editor',
    summary: 'Removes a subscriber from a topic.',
    params: idParams.extend({ subscriber: z.coerce.number().pipe(idSchema) }),
    handle: async ({ server, params: { id, subscriber } }) => void (await removeSubscriber(server, id, subscriber))
  }),
  operation('POST', '/channels/{id}/confirm', {
    right: 'editor',
    summary: 'Confirms a channel by the code that was sent to it. E-mail channels are confirmed by their link.',
    body: z.strictObject({ code: z.string().max(20) }),
    answer: channelAnswer,
    handle: ({ server, params: { id }, body }) => confirmWithCode(server, id, body.code)
  }),
  operation('POST', '/channels/{id}/test', {
    right: 'editor',
    summary: 'Sends a test to a channel that is confirmed.',
    answer: z.object({ messageId: z.int() }),
    status: 202,
    handle: async ({ server, params: { id }, author }) => ({ messageId: await sendTest(server, id, author) })
  }),
  operation('DELETE', '/channels/{id}', {
    right: 'editor',
    summary: 'Removes a channel that no route notifies. Its messages stay in the history.',
    handle: ({ server, params: { id } }) => removeChannel(server, id)
  })
];
