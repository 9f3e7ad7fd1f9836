// shelvings; incidents, of which they hold messages back
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import { isInForce, nextChange, shelvingForm, type Shelving } from '$lib/core/shelving';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredShelving {
  readonly id: number;
  readonly shelving: Shelving;
  readonly active: boolean;
  /** When it begins or ends next; null once it is over. */
  readonly changesAt: Instant | null;
  readonly createdAt: Instant;
  readonly createdBy: string;
  /** Who ended it before its time. */
  readonly endedBy: string | null;
}

const columns = `id, definition, active, changes_at as "changesAt", created_at as "createdAt", created_by as "createdBy", ended_by as "endedBy"`;
type Row = Omit<StoredShelving, 'shelving'> & { readonly definition: unknown };
const shelvingFrom = ({ definition, ...rest }: Row): StoredShelving => ({
  ...rest,
  shelving: readStored(shelvingForm, definition, `${rest.id}`)
});

/** Those that are in force or will be, the next to change first; without those that somebody has just ended. */
export const currentShelvings = async (db: Queryable): Promise<StoredShelving[]> =>
  readableOf(
    await db.rows<Row>(
      `select ${columns} from shelvings where changes_at is not null and ended_by is null order by active desc, changes_at, id`
    ),
    shelvingFrom
  );

/** Planned maintenance, whenever it is, as long as it was let go on. */
export const allMaintenance = async (
  db: Queryable
): Promise<(StoredShelving & { readonly endedAt: Instant | null })[]> => {
  type Ended = Row & { readonly endedAt: Instant | null };
  return readableOf(
    await db.rows<Ended>(
      `select ${columns}, ended_at as "endedAt" from shelvings where definition ->> 'kind' = 'maintenance' order by id desc limit 1000`
    ),
    ({ endedAt, ...row }) => ({ ...shelvingFrom(row), endedAt })
  );
};

/** Those that are in force. */
export const activeShelvings = async (db: Queryable): Promise<StoredShelving[]> =>
  readableOf(await db.rows<Row>(`select ${columns} from shelvings where active order by id`), shelvingFrom);

/** Why some shelvings cannot be read. */
export const unreadableShelvings = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await db.rows<Row>(`select ${columns} from shelvings where changes_at is not null`), shelvingFrom);

/** Adds a shelving, which begins as soon as it is looked at. */
export async function insertShelving(
  db: Queryable,
  shelving: Shelving,
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<StoredShelving> {
  const changesAt = isInForce(shelving, at) ? at : nextChange(shelving, at);
  return shelvingFrom(
    oneRow(
      await db.rows<Row>(
        `insert into shelvings (definition, changes_at, created_at, created_by) values ($1, $2, $3, $4) returning ${columns}`,
        [writeStored(shelvingForm, shelving), changesAt, at, by]
      )
    )
  );
}

/** Ends a shelving before its time, recurrences included. @returns whether it was in force or would have been */
export async function endShelving(db: Queryable, id: number, at: Instant, by: string): Promise<boolean> {
  const rows = await db.rows(
    'update shelvings set changes_at = $2, ended_at = $2, ended_by = $3 where id = $1 and changes_at is not null and ended_by is null returning id',
    [id, at, by]
  );
  return rows.length > 0;
}

/** Ids of shelvings that begin or end by now. */
export const changingShelvings = async (db: Queryable, now: Instant): Promise<number[]> =>
  (await db.rows<{ id: number }>('select id from shelvings where changes_at <= $1 order by changes_at, id', [now])).map(
    ({ id }) => id
  );

/** A shelving, locked until the transaction ends; null when another process is about it. */
export async function takeShelving(within: Queryable, id: number): Promise<StoredShelving | null> {
  const rows = await within.rows<Row>(`select ${columns} from shelvings where id = $1 for update skip locked`, [id]);
  return rows[0] ? shelvingFrom(rows[0]) : null;
}

export async function noteChange(
  within: Queryable,
  id: number,
  active: boolean,
  changesAt: Instant | null
): Promise<void> {
  await within.rows('update shelvings set active = $2, changes_at = $3 where id = $1', [id, active, changesAt]);
}

/** Holds messages about an incident back. */
export async function holdBack(within: Queryable, incidentId: number, shelvingId: number): Promise<void> {
  await within.rows('update incidents set shelving_id = $2 where id = $1', [incidentId, shelvingId]);
}

/** Holds nothing back any more that a shelving did. @returns the incidents that are open still and that nobody looks after */
export async function release(within: Queryable, shelvingId: number): Promise<number[]> {
  const rows = await within.rows<{ id: number; isOpen: boolean }>(
    `update incidents set shelving_id = null where shelving_id = $1 returning id, ended_at is null and acknowledged_at is null as "isOpen"`,
    [shelvingId]
  );
  return rows.filter(({ isOpen }) => isOpen).map(({ id }) => id);
}

/** How many incidents each shelving holds messages back of, open and clear. */
export const heldBack = (db: Queryable): Promise<{ shelvingId: number; open: number; clear: number }[]> =>
  db.rows(
    `select shelving_id as "shelvingId", (count(*) filter (where ended_at is null))::integer as open,
       (count(*) filter (where ended_at is not null))::integer as clear
     from incidents
     where shelving_id is not null
     group by shelving_id`
  );
