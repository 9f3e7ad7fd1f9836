import { z } from 'zod';
import { changeKindNames, factsOfChange, followerSchema } from '$lib/core/followers';
import { changesOf, allFollowers, type FollowedChange, type StoredFollower } from '../followers/followers';
import { addFollower, removeFollower, requireFollower, saveFollower } from '../followers/manage-followers';
import { instant, operationsOf } from './operation';
import { placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Followers');

const followerAnswer = z.object({
  id: z.int(),
  channelId: z.int(),
  name: z.string().describe('What its webhook is called.'),
  kinds: z.array(z.enum(changeKindNames)),
  isOn: z.boolean(),
  version: z.int(),
  changedAt: instant,
  changedBy: z.string(),
  waiting: z.int().describe('Changes that have not been sent.'),
  sentAt: instant.nullable().describe('When a change was sent last; null for none of the last days.'),
  tries: z.int().describe('That failed on end.'),
  failingSince: instant.nullable(),
  problem: z.string().nullable().describe('Why the last try failed.'),
  stoppedAt: instant.nullable().describe('When it was switched off since it had taken nothing for three days.')
});
const answerOf = ({ follower, nextAt: _, ...rest }: StoredFollower) => ({ ...follower, ...rest });

const changeAnswer = z.object({
  id: z.int(),
  kind: z.string(),
  at: instant,
  data: z.looseObject({ action: z.string(), what: z.string(), by: z.string() }).describe('What is sent of it.'),
  sentAt: instant.nullable().describe('Null while it waits.'),
  answer: z.string().nullable().describe('What it was answered.')
});
const changeOf = ({ id, kind, at, change, sentAt, answer }: FollowedChange, origin: string) => ({
  ...{ id, kind, at, sentAt, answer },
  data: factsOfChange(kind, at, change, origin) as { action: string; what: string; by: string }
});

export const followerOperations = [
  operation('GET', '/followers', {
    list: wholeList('followers'),
    right: 'administrator',
    summary: 'Lists who is sent each change, by name.',
    answer: z.object({ followers: z.array(followerAnswer) }),
    handle: async ({ server }) => ({ followers: (await allFollowers(server.db)).map(answerOf) })
  }),
  operation('POST', '/followers', {
    right: 'administrator',
    summary: 'Adds a follower. From now on each change is sent to its webhook, signed, at least once and in its order.',
    body: followerSchema,
    answer: followerAnswer,
    status: 201,
    handle: async ({ server, body, author }) => answerOf(await addFollower(server, body, author.displayName))
  }),
  operation('PUT', '/followers/{id}', {
    right: 'administrator',
    summary: 'Changes what a follower is sent, or switches it on or off, unless somebody else has meanwhile.',
    body: z.strictObject({ follower: followerSchema, version: z.int().min(1) }),
    answer: followerAnswer,
    handle: async ({ server, params: { id }, body: { follower, version }, author }) =>
      answerOf(await saveFollower(server, id, version, follower, author.displayName))
  }),
  operation('DELETE', '/followers/{id}', {
    right: 'administrator',
    summary: 'Removes a follower, with what waits for it.',
    handle: ({ server, params: { id } }) => removeFollower(server, id)
  }),
  operation('GET', '/followers/{id}/changes', {
    list: readList('changes', { usual: 50, most: 500 }),
    right: 'administrator',
    summary: 'Reads what a follower was sent in the last seven days, and what waits, the newest first.',
    answer: z.object({ changes: z.array(changeAnswer) }),
    handle: async ({ server, params: { id }, page }) => {
      await requireFollower(server.db, id);
      const [before = null] = placeOf(page, 1) ?? [];
      const changes = await changesOf(server.db, id, page.limit, before);
      return { changes: changes.map((one) => changeOf(one, server.origin)) };
    }
  })
];
