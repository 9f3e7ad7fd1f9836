// outbox, the jobs of the queue
import type { SentKind } from '$lib/core/notify';
import type { Queryable } from '../db/pool';

interface Waiting {
  readonly id: number;
  readonly priority: number;
  readonly kind: SentKind;
}

/** @param more a condition besides */
const waiting = (db: Queryable, more: string): Promise<Waiting[]> =>
  db.rows<Waiting>(
    `select outbox.id, priority, channels.kind
     from outbox
     join channels on channels.id = channel_id
     where state = 'queued' ${more}
     order by priority desc, outbox.id`
  );

/** Messages that are to be sent to a kind of channel, the most urgent first. */
export const waitingMessages = async (db: Queryable, of: SentKind): Promise<Waiting[]> =>
  (await waiting(db, '')).filter(({ kind }) => kind === of);

/** Messages that wait although no job of the queue is about them, such as after a job that failed as often as it may: nothing would send them before the next start. */
export const strandedMessages = (db: Queryable): Promise<Waiting[]> =>
  waiting(
    db,
    `and not exists (
       select from pgboss.job
       where name = 'deliver-' || channels.kind and (data ->> 'outboxId')::integer = outbox.id
         and state in ('created', 'retry', 'active'))`
  );

/** Withdraws what waits for a person, such as when they are disabled. */
export async function withdrawFrom(within: Queryable, personId: number): Promise<void> {
  await within.rows(
    `update outbox set state = 'withdrawn'
     where state = 'queued' and (person_id = $1 or channel_id in (select id from channels where person_id = $1))`,
    [personId]
  );
}

/** Kinds of channels that messages wait for. */
export const kindsWaiting = async (db: Queryable): Promise<SentKind[]> =>
  (
    await db.rows<{ kind: SentKind }>(
      `select distinct channels.kind from outbox join channels on channels.id = channel_id where state = 'queued'`
    )
  ).map(({ kind }) => kind);
