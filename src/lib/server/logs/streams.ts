// log_streams
import { oneRow, type Queryable } from '../db/pool';

/** What lines come from: a program, a workload or a device of an account. */
export interface Stream {
  readonly id: number;
  readonly accountId: number;
  readonly account: string;
  readonly service: string;
  readonly name: string;
  /** Everything of it in the journal up to here is in segments. */
  readonly sealedId: number;
}

export const allStreams = (db: Queryable): Promise<Stream[]> =>
  db.rows(
    `select log_streams.id, account_id as "accountId", accounts.name as account, service, log_streams.name, sealed_id as "sealedId"
     from log_streams
     join accounts on accounts.id = account_id
     order by log_streams.id`
  );

/** The id of a stream, which is made when it is new. */
export async function streamId(
  db: Queryable,
  { accountId, service, name }: Pick<Stream, 'accountId' | 'service' | 'name'>
): Promise<number> {
  return oneRow(
    await db.rows<{ id: number }>(
      `insert into log_streams (account_id, service, name)
       values ($1, $2, $3)
       on conflict (account_id, service, name) do update set name = excluded.name
       returning id`,
      [accountId, service, name]
    )
  ).id;
}

/** Any number, only ours: keeps those that seal in single file, so that ids of segments become visible in their order. */
const sealingLock = 20_261_129;

/** Locks a stream, and sealing as a whole, until the transaction ends. @returns false when the stream is gone, or another process has sealed more of it than is known */
export async function takeStream(within: Queryable, id: number, sealedId: number): Promise<boolean> {
  await within.rows('select pg_advisory_xact_lock($1)', [sealingLock]);
  const rows = await within.rows('select id from log_streams where id = $1 and sealed_id = $2 for update', [
    id,
    sealedId
  ]);
  return rows.length > 0;
}
