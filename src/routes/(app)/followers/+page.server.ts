import { allFollowers, changesOf } from '$server/followers/followers';
import { allChannels } from '$server/notify/channels';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Changes of each follower that the page lists. */
const mostChanges = 30;

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:followers');
  const { db } = bussola();
  const [followers, channels] = await Promise.all([allFollowers(db), allChannels(db)]);
  const changes = await Promise.all(followers.map(({ id }) => changesOf(db, id, mostChanges, null)));
  return {
    followers,
    changes: Object.fromEntries(followers.map(({ id }, index) => [id, changes[index] ?? []])),
    webhooks: channels
      .filter(({ kind, personId, topicId }) => kind === 'webhook' && personId === null && topicId === null)
      .map(({ id, name, address, confirmedAt }) => ({ id, name, address, isConfirmed: confirmedAt !== null }))
  };
};
