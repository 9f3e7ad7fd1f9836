import { z } from 'zod';
import { channelKinds } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import { attemptsOf, messageKinds } from '../notify/outbox';
import { listMessages, outboxStates } from '../notify/outbox-lists';
import { instant, operationsOf } from './operation';
import { placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Routes and rotas');

/** Messages of one answer. */
const pageLength = 100;

const messageAnswer = z.object({
  id: z.int(),
  kind: z.enum(messageKinds),
  channelKind: z.enum(channelKinds).nullable().describe('Null when the channel was removed.'),
  channel: z.string(),
  person: z.string().nullable().describe('Whoever was reached by it.'),
  address: z.string(),
  subject: z.string(),
  state: z.enum(outboxStates),
  attempts: z.int(),
  lastError: z.string().nullable(),
  incidentIds: z.array(z.int()),
  createdAt: instant,
  sentAt: instant.nullable()
});

export const outboxOperations = [
  operation('GET', '/outbox', {
    list: readList('messages', { usual: pageLength, most: 500 }),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists messages, newest first.',
    query: z.strictObject({ state: z.enum(outboxStates).optional() }),
    answer: z.object({ messages: z.array(messageAnswer) }),
    handle: async ({ server: { db }, query: { state = null }, page }) => {
      const [before = null] = placeOf(page, 1) ?? [];
      return { messages: await listMessages(db, { state, before, around: null }, page.limit) };
    }
  }),
  operation('GET', '/outbox/{id}/attempts', {
    list: wholeList('attempts', ({ at }: { at: number }) => [at]),
    right: 'editor',
    summary: 'Lists the newest tries to send a message, with what was sent and what was answered.',
    answer: z.object({
      attempts: z.array(
        z.object({
          at: instant,
          took: z.int().describe('Milliseconds.'),
          request: z.string(),
          answer: z.string(),
          error: z.string().nullable()
        })
      )
    }),
    handle: async ({ server: { db }, params: { id } }) => ({ attempts: await attemptsOf(db, id) })
  }),
  operation('POST', '/outbox/{id}/send-again', {
    right: 'editor',
    summary: 'Sends a message that failed once more, from the beginning.',
    handle: async ({ server: { delivery }, params: { id } }) => {
      if (!(await delivery.sendAgain(id)))
        throw new Refusal('not-found', 'There is no such message that failed.', 'It may have been sent meanwhile.');
    }
  })
];
