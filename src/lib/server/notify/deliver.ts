import type { Logger } from 'pino';
import PgBoss from 'pg-boss';
import type { Clock } from '$lib/core/time';
import type { Changes } from '../changes';
import type { Database, Queryable } from '../db/pool';
import { channelById } from './channels';
import type { Mailer } from './mail';
import { insertMessage, messageById, noteFailed, noteSent } from './outbox';

const queue = 'deliver';

/** Puts messages into the outbox and takes them out again, with retries. */
export interface Delivery {
  /** Queues a message within the caller's transaction: it leaves when, and only when, that is committed. */
  enqueue(within: Queryable, message: Parameters<typeof insertMessage>[1]): Promise<void>;
  stop(): Promise<void>;
}

/**
 * Starts delivery. A message that the mail server does not take is tried again five times, ever more slowly, then kept as failed.
 *
 * @example const delivery = await startDelivery({ db, clock, mailer, changes, log })
 */
export async function startDelivery(with_: {
  db: Database;
  clock: Clock;
  mailer: Mailer;
  changes: Changes;
  log: Logger;
}): Promise<Delivery> {
  const { db, clock, mailer, changes, log } = with_;
  const boss = new PgBoss({ db: queueOn(db), supervise: true, schedule: false });
  boss.on('error', (error) => log.error({ err: error }, 'queue'));
  await boss.start();
  await boss.createQueue(queue);

  async function deliver(outboxId: number): Promise<void> {
    const message = await messageById(db, outboxId);
    if (message === null || message.state === 'sent') return; // its channel was removed, or an earlier try did send it
    const channel = await channelById(db, message.channelId);
    if (channel === null) return;
    try {
      await mailer.send({ to: channel.address, subject: message.subject, text: message.text, html: message.html });
    } catch (error) {
      await noteFailed(db, outboxId, error instanceof Error ? error.message : String(error));
      throw error; // the queue tries again
    } finally {
      changes.tell('outbox', { channelId: channel.id });
    }
    await noteSent(db, outboxId, clock.now());
  }

  await boss.work<{ outboxId: number }>(queue, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([job]) => {
    if (job) await deliver(job.data.outboxId);
  });

  return {
    enqueue: async (within, message) => {
      const outboxId = await insertMessage(within, message);
      await boss.send(queue, { outboxId }, { retryLimit: 5, retryDelay: 5, retryBackoff: true, db: queueOn(within) });
    },
    stop: () => boss.stop({ graceful: true, timeout: 5000, close: false })
  };
}

/** The queue's own statements, run where ours run. It means null where it says undefined. */
const queueOn = (db: Queryable) => ({
  executeSql: async (text: string, values: unknown[] = []) => ({
    rows: await db.rows(
      text,
      values.map((value) => value ?? null)
    )
  })
});
