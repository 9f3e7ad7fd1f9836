// rotas, rota_overrides, rota_swaps
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { RotaWithOverrides } from '$lib/core/notify/route';
import type { Problem } from '$lib/core/problem/problem';
import { rotaForm, type Override, type Rota } from '$lib/core/rota';
import { before, day, times, type Instant, type Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredRota {
  readonly id: number;
  readonly rota: Rota;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

/** Whoever writes something, and when. */
export interface Written {
  readonly at: Instant;
  readonly by: string;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy"`;
type Row = Omit<StoredRota, 'rota'> & { readonly definition: unknown };
const rotaFrom = ({ definition, ...rest }: Row): StoredRota => ({
  ...rest,
  rota: readStored(rotaForm, definition, `${rest.id}`)
});

const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from rotas order by definition ->> 'name', id`);

/** Every rota that can be read, by name. */
export const allRotas = async (db: Queryable): Promise<StoredRota[]> => readableOf(await allRows(db), rotaFrom);

/** Why some rotas cannot be read. */
export const unreadableRotas = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), rotaFrom);

export async function rotaById(db: Queryable, id: number): Promise<StoredRota | null> {
  const rows = await db.rows<Row>(`select ${columns} from rotas where id = $1`, [id]);
  return rows[0] ? rotaFrom(rows[0]) : null;
}

export async function insertRota(db: Queryable, rota: Rota, { at, by }: Written): Promise<StoredRota> {
  return rotaFrom(
    oneRow(
      await db.rows<Row>(
        `insert into rotas (definition, created_at, created_by, changed_at, changed_by)
         values ($1, $2, $3, $2, $3)
         returning ${columns}`,
        [writeStored(rotaForm, rota), at, by]
      )
    )
  );
}

/** @param version that it has to have still @returns null when there is none of that id and version */
export async function changeRota(
  db: Queryable,
  id: number,
  rota: Rota,
  version: number,
  { at, by }: Written
): Promise<StoredRota | null> {
  const rows = await db.rows<Row>(
    `update rotas
     set definition = $2, version = version + 1, changed_at = $4, changed_by = $5
     where id = $1 and version = $3
     returning ${columns}`,
    [id, writeStored(rotaForm, rota), version, at, by]
  );
  return rows[0] ? rotaFrom(rows[0]) : null;
}

/** @returns whether there was one */
export async function deleteRota(db: Queryable, id: number): Promise<boolean> {
  return (await db.rows('delete from rotas where id = $1 returning id', [id])).length > 0;
}

/** An override as people see it. */
export interface StoredOverride extends Override {
  readonly rotaId: number;
  readonly reason: string;
  readonly createdBy: string;
}

/** Overrides of all rotas that reach into a range, in the order in which they were made. */
export const overridesIn = (db: Queryable, { from, to }: Range): Promise<StoredOverride[]> =>
  db.rows(
    `select id, rota_id as "rotaId", from_at as "from", to_at as "to", person_id as "personId", reason, created_by as "createdBy"
     from rota_overrides
     where from_at < $2 and to_at > $1
     order by id`,
    [from, to]
  );

/** Every rota with the overrides that count around an instant, by its id. */
export async function rotasWithOverrides(
  db: Queryable,
  at: Instant,
  until: Instant = (at + times(7, day)) as Instant
): Promise<ReadonlyMap<number, RotaWithOverrides>> {
  const rotas = await allRotas(db);
  if (rotas.length === 0) return new Map();
  const overrides = await overridesIn(db, { from: before(at, day), to: until });
  return new Map(
    rotas.map(({ id, rota }) => [id, { rota, overrides: overrides.filter(({ rotaId }) => rotaId === id) }])
  );
}

export async function insertOverride(
  db: Queryable,
  { rotaId, from, to, personId, reason }: Omit<StoredOverride, 'id' | 'createdBy'>,
  { at, by }: Written
): Promise<number> {
  return oneRow(
    await db.rows<{ id: number }>(
      `insert into rota_overrides (rota_id, from_at, to_at, person_id, reason, created_at, created_by)
       values ($1, $2, $3, $4, $5, $6, $7)
       returning id`,
      [rotaId, from, to, personId, reason, at, by]
    )
  ).id;
}

/** @returns whether there was one */
export async function deleteOverride(db: Queryable, id: number): Promise<boolean> {
  return (await db.rows('delete from rota_overrides where id = $1 returning id', [id])).length > 0;
}

/** Notes that a shift's person is reminded of it. @returns whether they were not before */
export async function noteReminder(
  within: Queryable,
  rotaId: number,
  personId: number,
  from: Instant
): Promise<boolean> {
  const rows = await within.rows(
    `insert into rota_reminders (rota_id, person_id, from_at)
     values ($1, $2, $3)
     on conflict (rota_id, person_id, from_at) do nothing
     returning rota_id`,
    [rotaId, personId, from]
  );
  return rows.length > 0;
}

/** Somebody asks another to take a span over. */
export interface Swap extends Range {
  readonly id: number;
  readonly rotaId: number;
  readonly askedBy: number;
  readonly askedOf: number;
  readonly askedAt: Instant;
  readonly state: 'asked' | 'accepted' | 'declined' | 'withdrawn';
}

const swapColumns = `id, rota_id as "rotaId", from_at as "from", to_at as "to", asked_by as "askedBy", asked_of as "askedOf", asked_at as "askedAt", state`;

/** Swaps that nobody has answered and that are not over. */
export const openSwaps = (db: Queryable, now: Instant): Promise<Swap[]> =>
  db.rows(`select ${swapColumns} from rota_swaps where state = 'asked' and to_at > $1 order by from_at, id`, [now]);

export async function insertSwap(
  db: Queryable,
  { rotaId, from, to, askedBy, askedOf, askedAt }: Omit<Swap, 'id' | 'state'>
): Promise<number> {
  return oneRow(
    await db.rows<{ id: number }>(
      `insert into rota_swaps (rota_id, from_at, to_at, asked_by, asked_of, asked_at) values ($1, $2, $3, $4, $5, $6) returning id`,
      [rotaId, from, to, askedBy, askedOf, askedAt]
    )
  ).id;
}

/** A swap that nobody has answered, locked until the transaction ends; null when there is none. */
export async function lockSwap(within: Queryable, id: number): Promise<Swap | null> {
  const rows = await within.rows<Swap>(
    `select ${swapColumns} from rota_swaps where id = $1 and state = 'asked' for update`,
    [id]
  );
  return rows[0] ?? null;
}

export async function answerSwap(within: Queryable, id: number, state: Swap['state'], at: Instant): Promise<void> {
  await within.rows('update rota_swaps set state = $2, answered_at = $3 where id = $1', [id, state, at]);
}
