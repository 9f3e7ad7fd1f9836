import type { Logger } from 'pino';
import PgBoss from 'pg-boss';
import { day, hour, times, type Clock } from '$lib/core/time';
import type { Changes } from '../base/changes';
import type { Database, Queryable } from '../db/pool';
import { TakeTurns } from '../base/take-turns';
import { channelById, renewToken, type Channel } from './channels';
import { confirmMail } from './confirm';
import type { Mailer } from './mail';
import {
  insertMessage,
  messageById,
  noteFailed,
  noteSent,
  noteSuperseded,
  noteTry,
  queueAgain,
  supersedeRaised,
  waitingMessages,
  wasCleared,
  type NewMessage,
  type OutboxMessage
} from './outbox';

const queue = 'deliver';
/** Messages under way at the same time. */
const atOnce = 5;
/** How often, in real time, it is looked whether messages wait. */
const lookEveryMs = 500;
/** A message that has not left for so long is marked as failed. */
const givenUpAfter = day + times(2, hour);
/** The shortest and the longest pause before a message is tried again, seconds. */
const [shortestPause, longestPause] = [5, 600];

/** Puts messages into the outbox and sends them, with retries. */
export interface Delivery {
  /** Queues a message within the caller's transaction: it leaves when, and only when, that is committed. */
  enqueue(within: Queryable, message: NewMessage): Promise<void>;
  /** Tries a message that failed once more, from the beginning. @returns whether there was one */
  sendAgain(outboxId: number): Promise<boolean>;
  stop(): Promise<void>;
}

export interface DeliveryParts {
  readonly db: Database;
  readonly clock: Clock;
  readonly mailer: Mailer;
  readonly changes: Changes;
  readonly log: Logger;
  /** Bussola's own address, for links in messages. */
  readonly origin: string;
  /** Seconds to wait after so many tries that failed; {@link pauseAfter} by default. */
  readonly pause?: (attempts: number) => number;
}

/**
 * Starts delivery. A message that the mail server does not take is tried again for a day, ever more slowly, then marked as failed with its reason. The more urgent leave first, several at a time. What waited when a
 * process ended, however it ended, is sent by the next one at once. The two messages of an incident to one channel leave in their order, and a raised one not behind its clearing one.
 *
 * @example const delivery = await startDelivery({ db, clock, mailer, changes, log, origin })
 */
export async function startDelivery({
  db,
  clock,
  mailer,
  changes,
  log,
  origin,
  pause = (attempts) => pauseAfter(attempts, Math.random())
}: DeliveryParts): Promise<Delivery> {
  const boss = new PgBoss({ db: queueOn(db), supervise: true, schedule: false });
  boss.on('error', (error) => log.error({ err: error }, 'queue'));
  await boss.start();
  await boss.createQueue(queue);
  const turns = new TakeTurns();
  const underWay = new Set<Promise<void>>();
  let stopped = false;

  const send = (to: Queryable, outboxId: number, priority: number, startAfter = 0) =>
    boss.send(queue, { outboxId }, { priority, startAfter, retryLimit: 3, retryDelay: 5, db: queueOn(to) });

  // A process that was killed leaves its jobs as under way, for minutes: their messages are queued anew.
  for (const { id, priority } of await waitingMessages(db)) await send(db, id, priority);

  async function deliver(outboxId: number): Promise<void> {
    const message = await messageById(db, outboxId);
    if (message === null || message.state !== 'queued' || message.channelId === null) return; // its channel was removed, or another try did send it
    const channel = await channelById(db, message.channelId);
    if (channel === null) return;
    if (message.kind === 'raised' && (await wasCleared(db, message))) await noteSuperseded(db, outboxId);
    else {
      if (message.kind === 'cleared') await supersedeRaised(db, message);
      await trySending(message, channel);
    }
    changes.tell('outbox', { channelId: channel.id });
  }

  async function trySending(message: OutboxMessage, channel: Channel): Promise<void> {
    try {
      await mailer.send({ to: channel.address, ...(await contentOf(message, channel)) });
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      if (clock.now() - message.createdAt > givenUpAfter) return noteFailed(db, message.id, reason);
      await noteTry(db, message.id, reason);
      await send(db, message.id, message.priority, pause(message.attempts));
      return;
    }
    await noteSent(db, message.id, clock.now());
  }

  /** A link to confirm is made when it is sent: nothing that is stored holds it. */
  async function contentOf(
    { kind, subject, text, html }: OutboxMessage,
    channel: Channel
  ): Promise<{ subject: string; text: string; html: string }> {
    if (kind !== 'confirm') return { subject, text, html };
    return confirmMail(channel, await renewToken(db, channel.id, clock.now()), origin);
  }

  async function look(): Promise<void> {
    const room = atOnce - underWay.size;
    if (room <= 0 || stopped) return;
    const jobs = await boss.fetch<{ outboxId: number }>(queue, { batchSize: room });
    for (const { id, data } of jobs) {
      const work = turns
        .take(await orderOf(data.outboxId), () => deliver(data.outboxId))
        .then(
          () => boss.complete(queue, id),
          (error: unknown) => {
            log.error({ err: error, outboxId: data.outboxId }, 'delivery failed');
            return boss.fail(queue, id); // the queue tries again
          }
        )
        .catch((error: unknown) => log.error({ err: error }, 'queue'))
        .finally(() => {
          underWay.delete(work);
          lookSoon(); // more may wait than fitted
        });
      underWay.add(work);
    }
  }

  /** Messages of one incident to one channel are delivered one after the other. */
  async function orderOf(outboxId: number): Promise<string> {
    const message = await messageById(db, outboxId);
    return message?.incidentId ? `${message.incidentId}/${message.channelId}` : `message ${outboxId}`;
  }

  let looking: Promise<void> | null = null;
  function lookSoon(): void {
    if (stopped) return;
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'queue'))
      .finally(() => (looking = null));
  }
  const timer = setInterval(lookSoon, lookEveryMs);

  return {
    enqueue: async (within, message) => {
      await send(within, await insertMessage(within, message), message.priority);
    },
    sendAgain: async (outboxId) => {
      const priority = await queueAgain(db, outboxId, clock.now());
      if (priority === null) return false;
      await send(db, outboxId, priority);
      return true;
    },
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      await looking;
      await Promise.all(underWay);
      await boss.stop({ graceful: true, timeout: 5000, close: false });
    }
  };
}

/**
 * Seconds to wait after so many tries that failed: twice as long each time, up to ten minutes, less up to half of it by chance, so that messages do not all come back at once.
 *
 * @param chance from 0 to 1
 * @example pauseAfter(2, 1) // 20
 */
export const pauseAfter = (attempts: number, chance: number): number =>
  Math.round(Math.min(longestPause, shortestPause * 2 ** Math.min(attempts, 20)) * (0.5 + chance / 2));

/** The queue's own statements, run where ours run. It means null where it says undefined. */
const queueOn = (db: Queryable) => ({
  executeSql: async (text: string, values: unknown[] = []) => ({
    rows: await db.rows(
      text,
      values.map((value) => value ?? null)
    )
  })
});
