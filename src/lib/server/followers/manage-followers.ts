import type { Follower } from '$lib/core/followers';
import { Refusal } from '$lib/core/problem/problem';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { channelById } from '../notify/channels';
import {
  allFollowers,
  deleteFollower,
  followerById,
  insertFollower,
  updateFollower,
  type StoredFollower
} from './followers';

/** Followers that there may be: each change is stored for each of them. */
const mostFollowers = 20;

/** Has a webhook sent each change from now on. @throws Refusal `invalid` for what is no webhook, or one too many; `not-confirmed`; `name-taken` where it follows already */
export async function addFollower(
  { db, clock, changes }: Context,
  follower: Follower,
  by: string
): Promise<StoredFollower> {
  const made = await db.transaction(async (within) => {
    await within.rows('lock table followers in share row exclusive mode');
    if ((await allFollowers(within)).length >= mostFollowers)
      throw new Refusal('invalid', `There are ${mostFollowers} followers, which is the most.`, 'Remove one first.');
    await requireWebhook(within, follower.channelId);
    return insertFollower(within, follower, { at: clock.now(), by });
  });
  if (made === null) throw followsAlready();
  changes.tell('followers', {});
  return made;
}

/**
 * Changes what is sent, or switches a follower on or off. What waits is sent when it is on again; what happened meanwhile is not.
 *
 * @param version of the follower as whoever changes it has seen it
 * @throws Refusal as {@link addFollower}; `not-found`, `changed-meanwhile`
 */
export async function saveFollower(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  follower: Follower,
  by: string
): Promise<StoredFollower> {
  const saved = await db.transaction(async (within) => {
    await within.rows('lock table followers in share row exclusive mode');
    await requireWebhook(within, follower.channelId);
    if ((await allFollowers(within)).some((one) => one.id !== id && one.follower.channelId === follower.channelId))
      throw followsAlready();
    const isSaved = await updateFollower(within, id, version, follower, { at: clock.now(), by });
    const now = await followerById(within, id);
    if (!isSaved || now === null) throw changedMeanwhile(now, 'follower', noSuchFollower);
    return now;
  });
  changes.tell('followers', {});
  return saved;
}

/** Removes a follower, with what waits for it. @throws Refusal `not-found` */
export async function removeFollower({ db, changes }: Pick<Context, 'db' | 'changes'>, id: number): Promise<void> {
  if (!(await deleteFollower(db, id))) throw noSuchFollower();
  changes.tell('followers', {});
}

/** @throws Refusal `not-found` */
export async function requireFollower(db: Queryable, id: number): Promise<StoredFollower> {
  const found = await followerById(db, id);
  if (found === null) throw noSuchFollower();
  return found;
}

/** A webhook of all: what is somebody's own is not told what others do. */
async function requireWebhook(within: Queryable, channelId: number): Promise<void> {
  const channel = await channelById(within, channelId);
  if (channel === null || channel.kind !== 'webhook' || channel.personId !== null || channel.topicId !== null)
    throw new Refusal('invalid', 'This is no webhook.', 'Add one among the channels.', { path: ['channelId'] });
  if (channel.confirmedAt === null)
    throw new Refusal('not-confirmed', `The channel ${channel.name} is not confirmed.`, 'Confirm it first.', {
      path: ['channelId']
    });
}

const followsAlready = () =>
  new Refusal('name-taken', 'This webhook follows changes already.', 'Change what it is sent.', {
    path: ['channelId']
  });
const noSuchFollower = () => new Refusal('not-found', 'There is no such follower.', 'See the list of followers.');
