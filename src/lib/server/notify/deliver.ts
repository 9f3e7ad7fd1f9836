import { count } from '../base/own-counters';
import { randomUUID } from 'node:crypto';
import type { Logger } from 'pino';
import PgBoss from 'pg-boss';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { sentKinds, holdsSecret, type SentKind, type MessageContent } from '$lib/core/notify';
import { isRefused, Refusal } from '$lib/core/problem/problem';
import { day, duration, hour, times, type Clock } from '$lib/core/time';
import type { Changes } from '../base/changes';
import { passes } from '../base/kill-points';
import type { SecretBox } from '../base/secrets';
import type { Database, Queryable } from '../db/pool';
import type { Duties, Held } from '../duties/duties';
import { confirmDuty, DutyLost } from '../duties/duties';
import { TakeTurns } from '../base/take-turns';
import { secretOfChannel, sentChannelById, type SentChannel } from './channels';
import { unconfirmChannel } from './channel-confirmation';
import { wordsOf } from './words-of-message';
import {
  insertMessage,
  messageById,
  noteAttempt,
  noteFailed,
  noteSent,
  noteSuperseded,
  noteTry,
  orderOf,
  queueAgain,
  supersedeRaised,
  wasCleared,
  datesOf,
  type NewMessage,
  type OutboxMessage
} from './outbox';
import { kindsWaiting, strandedMessages, waitingMessages } from './waiting';
import { queueOf, queueOn } from './queue';
import { firstLine, pauseAfter, reasonOf } from './retry';
import { Gone, NotTaken, type EnclosedFile, type Exchange, type Picture } from './senders/sender';
import type { Senders } from './senders/senders';

/** Messages of a kind under way at the same time. */
const atOnce = 5;
/** How often, in real time, it is looked whether messages wait. */
const lookEveryMs = 500;
/** How often, in real time, it is looked whether messages wait that no job is about. */
const usualStrandedEveryMs = 30_000;
/** A message that has not left for so long is marked as failed. */
const givenUpAfter = day + times(2, hour);

/** How many messages a channel gets within a minute; more wait, the more urgent before the others. */
const usualMost = (kind: SentKind): number => (kind === 'text-message' ? 30 : 120);

/** Puts messages into the outbox and sends them, with retries. */
export interface Delivery {
  /** Queues a message within the caller's transaction: it leaves when, and only when, that is committed. @returns its id */
  enqueue(within: Queryable, message: NewMessage): Promise<number>;
  /** Tries a message that failed once more, from the beginning. @returns whether there was one */
  sendAgain(outboxId: number): Promise<boolean>;
  stop(): Promise<void>;
}

export interface DeliveryParts {
  readonly db: Database;
  readonly clock: Clock;
  readonly senders: Senders;
  readonly secrets: SecretBox;
  readonly changes: Changes;
  /** One of several processes sends what is for a kind of channel. */
  readonly duties: Duties;
  readonly log: Logger;
  /** Bussola's own address, for links in messages. */
  readonly origin: string;
  /** Seconds to wait after so many tries that failed; {@link pauseAfter} by default. */
  readonly pause?: (attempts: number) => number;
  /** How often, in real time, it is looked whether messages wait that no job is about, ms. */
  readonly strandedEveryMs?: number;
  /** How many messages a channel gets within a minute. */
  readonly mostAMinute?: (kind: SentKind) => number;
  /** What goes with a message to a kind of channel, by its content, for a reader in a zone. Nothing by default. */
  readonly enclose?: (content: MessageContent, kind: SentKind, zone: string) => Promise<Enclosed>;
}

/** What goes with a message. */
export interface Enclosed {
  readonly pictures: readonly Picture[];
  readonly files: readonly EnclosedFile[];
  /** Where its reader is led, in place of the page for whoever has signed in. */
  readonly link?: string;
}
const nothing: Enclosed = { pictures: [], files: [] };

/**
 * Starts delivery. A message that is not taken is tried again for a day, ever more slowly, then marked as failed with its reason; each try is noted with its answer. The more urgent leave first, several at a time. What
 * waited when a process ended, however it ended, is sent by the next one at once. The two messages of an incident to one channel leave in their order, and a raised one not behind its clearing one.
 *
 * @example const delivery = await startDelivery({ db, clock, senders, secrets, changes, log, origin })
 */
export async function startDelivery({
  db,
  clock,
  senders,
  secrets,
  changes,
  duties,
  log,
  origin,
  pause = (attempts) => pauseAfter(attempts, Math.random()),
  strandedEveryMs = usualStrandedEveryMs,
  mostAMinute = usualMost,
  enclose = () => Promise.resolve(nothing)
}: DeliveryParts): Promise<Delivery> {
  const boss = new PgBoss({ db: queueOn(db), supervise: true, schedule: false });
  boss.on('error', (error) => log.error({ err: error }, 'queue'));
  await boss.start();
  for (const kind of sentKinds) await boss.createQueue(queueOf(kind));
  const rates = new Map(
    sentKinds.map((kind) => [kind, new RateLimiterMemory({ points: mostAMinute(kind), duration: 60, keyPrefix: kind })])
  );
  const turns = new TakeTurns();
  const underWay = new Map(sentKinds.map((kind) => [kind, new Set<Promise<void>>()]));
  let stopped = false;

  const send = (to: Queryable, kind: SentKind, outboxId: number, priority: number, startAfter = 0) =>
    boss.send(queueOf(kind), { outboxId }, { priority, startAfter, retryLimit: 3, retryDelay: 5, db: queueOn(to) });

  /** The duties under which kinds were sent last. */
  const taken = new Map<SentKind, number | null>();

  /** A process that was killed leaves its jobs as under way, for minutes: whoever comes after it queues their messages anew. */
  async function takeUp(kind: SentKind, { fence }: Held): Promise<void> {
    if (taken.get(kind) === fence) return;
    for (const { id, priority } of await waitingMessages(db, kind)) await send(db, kind, id, priority);
    taken.set(kind, fence);
  }
  for (const kind of sentKinds) {
    const held = duties.held(dutyOf(kind));
    if (held !== null) await takeUp(kind, held);
  }

  async function deliver(outboxId: number, held: Held): Promise<void> {
    const message = await messageById(db, outboxId).catch((error: unknown) => {
      if (isRefused(error, 'stored-unreadable')) return error;
      throw error;
    });
    if (message instanceof Refusal) return noteFailed(db, outboxId, message.message);
    if (message === null || message.state !== 'queued' || message.channelId === null) return; // its channel was removed, or another try did send it
    const channel = await sentChannelById(db, message.channelId);
    if (channel === null) return;
    const pauseMs = (message.holdUntil ?? 0) - clock.now();
    if (pauseMs > 0) return void (await send(db, channel.kind, outboxId, message.priority, Math.ceil(pauseMs / 1000)));
    if (message.kind === 'raised' && (await wasCleared(db, message))) await noteSuperseded(db, outboxId);
    else {
      const wait = await waitFor(channel);
      if (wait > 0) return void (await send(db, channel.kind, outboxId, message.priority, wait));
      if (message.kind === 'cleared') await supersedeRaised(db, message);
      await trySending(message, channel, held);
    }
    changes.tell('outbox', { channelId: channel.id });
  }

  /** Seconds to wait before a channel may get another message; 0 for none. */
  async function waitFor({ id, kind }: SentChannel): Promise<number> {
    try {
      await rates.get(kind)?.consume(id);
      return 0;
    } catch (full) {
      if (full instanceof RateLimiterRes) return Math.ceil(full.msBeforeNext / 1000);
      throw full;
    }
  }

  async function trySending(message: OutboxMessage, channel: SentChannel, held: Held): Promise<void> {
    const at = clock.now();
    const begun = performance.now();
    const asks = holdsSecret(message.kind);
    // What lets somebody in holds a secret, which a receiver may repeat in its answer: only the first line of that is shown.
    const shown = (one: Exchange): Exchange => (asks ? { request: '', answer: firstLine(one.answer) } : one);
    const noteWith = (one: Exchange, error: string | null) =>
      noteAttempt(db, message.id, {
        ...{ at, took: duration(Math.round(performance.now() - begun)), error },
        ...shown(one)
      });
    let exchange: Exchange;
    try {
      passes('sending');
      const { pictures, files, link } = await enclosedFor(message, channel);
      const words = await wordsOf({ db, clock, secrets, origin }, message, channel);
      // Whoever was stopped for long and goes on now would send what another process has sent meanwhile.
      await confirmDuty(db, held);
      exchange = await senders[channel.kind].send({
        // Its secret is another with every try: whoever has one already is to take the next as well.
        key: asks ? randomUUID() : message.key,
        thread: conversationOf(message),
        channel,
        secret: await secretOfChannel(db, secrets, channel.id),
        content: message.content,
        message: link === undefined ? words : { ...words, link },
        ...{ pictures, files, at }
      });
    } catch (error) {
      if (error instanceof DutyLost) throw error;
      const isAnswered = error instanceof NotTaken;
      const reason = asks && isAnswered ? `answered ${firstLine(error.exchange.answer)}` : reasonOf(error);
      await noteWith(isAnswered ? error.exchange : { request: '', answer: '' }, reason);
      if (error instanceof Gone) {
        await unconfirmChannel(db, channel.id);
        return givenUp(message.id, reason);
      }
      if (clock.now() - Math.max(message.createdAt, message.holdUntil ?? 0) > givenUpAfter)
        return givenUp(message.id, reason);
      await noteTry(db, message.id, reason);
      await send(db, channel.kind, message.id, message.priority, pause(message.attempts));
      return;
    }
    passes('taken');
    await noteWith(exchange, null);
    await noteSent(db, message.id, clock.now());
    count('messages.sent');
    passes('noted');
  }

  async function givenUp(id: number, reason: string): Promise<void> {
    await noteFailed(db, id, reason);
    count('messages.failed');
  }

  /** A message without its pictures and files is better than none. */
  async function enclosedFor({ id, content }: OutboxMessage, { kind }: SentChannel): Promise<Enclosed> {
    try {
      return await enclose(content, kind, (await datesOf(db, id)).zone);
    } catch (error) {
      log.warn({ err: error }, 'a message is sent without its pictures and files');
      return nothing;
    }
  }

  async function look(kind: SentKind): Promise<void> {
    const ofKind = underWay.get(kind) as Set<Promise<void>>;
    const room = atOnce - ofKind.size;
    const held = duties.held(dutyOf(kind));
    if (room <= 0 || stopped || held === null) return;
    await takeUp(kind, held);
    const jobs = await boss.fetch<{ outboxId: number }>(queueOf(kind), { batchSize: room });
    for (const { id, data } of jobs) {
      const work = turns
        .take(await orderOf(db, data.outboxId), () => duties.during(dutyOf(kind), (now) => deliver(data.outboxId, now)))
        .then(
          () => boss.complete(queueOf(kind), id),
          (error: unknown) => {
            log.error({ err: error, outboxId: data.outboxId }, 'delivery failed');
            return boss.fail(queueOf(kind), id); // the queue tries again
          }
        )
        .catch((error: unknown) => log.error({ err: error }, 'queue'))
        .finally(() => {
          ofKind.delete(work);
          lookSoon(kind); // more may wait than fitted
        });
      ofKind.add(work);
    }
  }

  const looking = new Map<SentKind, Promise<void>>();
  function lookSoon(kind: SentKind): void {
    if (stopped || looking.has(kind)) return;
    looking.set(
      kind,
      look(kind)
        .catch((error: unknown) => log.error({ err: error }, 'queue'))
        .finally(() => looking.delete(kind))
    );
  }
  /** Looks into the queues of what waits, so that idle ones cost nothing. */
  let lookingAround: Promise<void> | null = null;
  let strandedSought = performance.now();
  async function queueStranded(): Promise<void> {
    if (performance.now() - strandedSought < strandedEveryMs) return;
    strandedSought = performance.now();
    for (const { id, priority, kind } of await strandedMessages(db))
      if (duties.held(dutyOf(kind)) !== null) await send(db, kind, id, priority);
  }
  const timer = setInterval(() => {
    lookingAround ??= queueStranded()
      .then(() => kindsWaiting(db))
      .then((kinds) => kinds.forEach(lookSoon))
      .catch((error: unknown) => log.error({ err: error }, 'queue'))
      .finally(() => (lookingAround = null));
  }, lookEveryMs);

  return {
    enqueue: async (within, message) => {
      const id = await insertMessage(within, message);
      const channel = await sentChannelById(within, message.channelId);
      const pauseMs = Math.max(0, (message.holdUntil ?? 0) - clock.now());
      if (channel !== null) await send(within, channel.kind, id, message.priority, Math.ceil(pauseMs / 1000));
      return id;
    },
    sendAgain: async (outboxId) => {
      const again = await queueAgain(db, outboxId, clock.now());
      if (again === null) return false;
      await send(db, again.kind, outboxId, again.priority);
      return true;
    },
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      await lookingAround;
      await Promise.all(looking.values());
      await Promise.all([...underWay.values()].flatMap((works) => [...works]));
      await boss.stop({ graceful: true, timeout: 5000, close: false });
    }
  };
}

/** Of several processes, one sends what is for a kind of channel: messages keep their order, and channels their limits. */
export const dutyOf = (kind: SentKind): string => `sending ${kind}`;

/** What the messages of one conversation have in common. */
const conversationOf = ({ threadId, incidentId }: OutboxMessage): string | null =>
  threadId === null ? (incidentId === null ? null : `incident-${incidentId}`) : `thread-${threadId}`;
