import { CloudEvent } from 'cloudevents';
import type { Logger } from 'pino';
import { factsOfChange, type Follower } from '$lib/core/followers';
import { after, before, day, hour, minute, second, times, type Instant } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Context } from '../db/context';
import { channelById, secretOfChannel } from '../notify/channels';
import { firstLine, pauseAfter, reasonOf } from '../notify/retry';
import { postSigned } from '../notify/senders/webhook/webhook';
import type { Outbound } from '../providers/port/outbound';
import {
  areFollowers,
  firstWaiting,
  followerById,
  forgetChanges,
  noteFailedTry,
  noteSent,
  stopFollower,
  takeDueFollowers,
  tryAgainAt,
  type FollowedChange
} from './followers';

/** How often, in real time, it is looked whether changes wait, ms; and whether there are followers at all, which another process may have added. */
const lookEveryMs = 1000;
const lookAroundEveryMs = 30_000;
/** Whoever sends holds a follower for so long after each change: one that ended without a word is taken over then. */
const heldFor = minute;
/** The longest pause between two tries. */
const longestPause = times(10, minute);
/** A follower that takes nothing for so long is switched off. */
const givenUpAfter = times(3, day);
/** How long it is stored what was sent, and what was never sent. */
const sentKept = times(7, day);
const waitingKept = times(30, day);
const mostAtOnce = 5;

export interface SendingParts extends Context {
  readonly secrets: SecretBox;
  readonly log: Logger;
  /** Bussola's own address, the source of the events. */
  readonly origin: string;
  /** Calls addresses that people entered, where the policy permits it. */
  readonly call: Outbound;
  /** Seconds to wait after so many tries that failed; {@link pauseAfter} by default. */
  readonly pause?: (tries: number) => number;
}

/**
 * Sends each follower the changes that it follows, each at least once and in their order: what is not taken holds up what comes after it, and is tried again ever more slowly. A follower that takes nothing for three days is
 * switched off. Several processes share them: what one holds, the others leave alone.
 *
 * @returns what stops it, letting what is under way end
 */
export function startSendingChanges(parts: SendingParts): { stop(): Promise<void> } {
  const { db, clock, changes, log } = parts;
  const underWay = new Map<number, Promise<void>>();
  let stopped = false;
  let looking: Promise<void> | null = null;
  let hasFollowers = true;
  let lookedAround = performance.now();
  let tidiedAt = 0 as Instant;

  async function look(): Promise<void> {
    if (performance.now() - lookedAround > lookAroundEveryMs) {
      lookedAround = performance.now();
      hasFollowers = true;
    }
    if (!hasFollowers) return;
    hasFollowers = false; // one may be added while it is looked
    if (await areFollowers(db)) hasFollowers = true;
    if (!hasFollowers) return;
    const now = clock.now();
    const room = mostAtOnce - underWay.size;
    const due =
      room <= 0 ? [] : await takeDueFollowers(db, now, after(now, heldFor), after(now, times(2, longestPause)), room);
    for (const id of due.filter((one) => !underWay.has(one))) {
      const work = sendWaiting(id)
        .catch((error: unknown) => log.error({ err: error, follower: id }, 'changes could not be sent'))
        .finally(() => underWay.delete(id));
      underWay.set(id, work);
    }
    if (now - tidiedAt < hour && now >= tidiedAt) return;
    tidiedAt = now;
    await forgetChanges(db, before(now, sentKept), before(now, waitingKept));
  }

  /** Sends what waits, one after the other, until one is not taken. */
  async function sendWaiting(id: number): Promise<void> {
    try {
      for (let change = await firstWaiting(db, id); change !== null && !stopped; change = await firstWaiting(db, id)) {
        const follower = await followerById(db, id);
        if (follower === null || !follower.follower.isOn) break;
        if (!(await sendOne(change, follower.follower))) return;
      }
      await tryAgainAt(db, id, 0 as Instant);
    } finally {
      changes.tell('followers', {});
    }
  }

  /** @returns whether it was taken, and the next may follow */
  async function sendOne(one: FollowedChange, { channelId }: Follower): Promise<boolean> {
    try {
      const channel = await channelById(db, channelId);
      if (channel === null || channel.confirmedAt === null) throw new Error('its channel is not confirmed');
      const secret = await secretOfChannel(db, parts.secrets, channelId);
      const { answer } = await postSigned(parts.call, { channel, secret }, eventOf(one, parts.origin), clock.now());
      const now = clock.now();
      await noteSent(db, one, firstLine(answer), now, after(now, heldFor));
      return true;
    } catch (error) {
      await failed(one.followerId, reasonOf(error).slice(0, 500));
      return false;
    }
  }

  async function failed(id: number, why: string): Promise<void> {
    const now = clock.now();
    const isStopped = await db.transaction(async (within) => {
      const noted = await noteFailedTry(within, id, why, now);
      if (noted === null) return false; // it was removed meanwhile
      if (now - noted.failingSince >= givenUpAfter) {
        await stopFollower(within, id, now);
        return true;
      }
      const pause = (parts.pause ?? ((count) => pauseAfter(count, Math.random())))(noted.tries);
      await tryAgainAt(within, id, after(now, times(pause, second)));
      return false;
    });
    if (isStopped)
      log.error({ follower: id, why }, 'a follower of changes was switched off: it has taken none for three days');
  }

  const lookSoon = (): void => {
    if (stopped) return;
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'followers could not be looked at; it is tried again'))
      .finally(() => (looking = null));
  };
  const lookAgain = (): void => {
    hasFollowers = true;
    lookSoon();
  };
  changes.on('followers', lookAgain);
  const timer = setInterval(lookSoon, lookEveryMs);
  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      changes.off('followers', lookAgain);
      await looking;
      await Promise.all(underWay.values());
    }
  };
}

/** A change as it is sent; sent again, it has the same id. */
const eventOf = ({ id, kind, at, change }: FollowedChange, origin: string): CloudEvent<object> =>
  new CloudEvent<object>({
    ...{ id: `change-${id}`, type: `bussola.change.${kind}`, source: origin },
    ...(typeof change.id === 'number' && { subject: `${kind}/${change.id}` }),
    ...{ time: new Date(at).toISOString(), datacontenttype: 'application/json' },
    data: factsOfChange(kind, at, change, origin)
  });
