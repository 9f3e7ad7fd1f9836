// routes
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { routeForm, type Route } from '$lib/core/notify/route';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredRoute {
  readonly id: number;
  /** Its position in the list; null for one that only alarms have that name it. */
  readonly place: number | null;
  /** Takes whatever no other route takes. */
  readonly isLast: boolean;
  readonly route: Route;
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

const columns = `id, place, is_last as "isLast", definition, version, changed_at as "changedAt", changed_by as "changedBy"`;
/** The list in its order, then those that are not in it. */
const inOrder = 'order by is_last, place nulls last, id';

type Row = Omit<StoredRoute, 'route'> & { readonly definition: unknown };
const routeFrom = ({ definition, ...rest }: Row): StoredRoute => ({
  ...rest,
  route: readStored(routeForm, definition, `${rest.id}`)
});

const allRows = (db: Queryable): Promise<Row[]> => db.rows<Row>(`select ${columns} from routes ${inOrder}`);

/** Every route that can be read: those of the list in their order, the last one, and those that only alarms name. */
export const allRoutes = async (db: Queryable): Promise<StoredRoute[]> => readableOf(await allRows(db), routeFrom);

/** Why some routes cannot be read. */
export const unreadableRoutes = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), routeFrom);

/** Those that incidents are tried against, in order: the list, and the last one. */
export const isListed = ({ place, isLast }: Pick<StoredRoute, 'place' | 'isLast'>): boolean => isLast || place !== null;

export async function routeById(db: Queryable, id: number): Promise<StoredRoute | null> {
  const rows = await db.rows<Row>(`select ${columns} from routes where id = $1`, [id]);
  return rows[0] ? routeFrom(rows[0]) : null;
}

/** Keeps others from changing the list until the transaction ends. */
export async function lockRoutes(within: Queryable): Promise<void> {
  await within.rows('lock table routes in share row exclusive mode');
}

/** Where a new route stands: at the end of the list, as the last one of all, or in no list. */
export type NewPlace = 'list' | 'last' | 'named';

/** To be called in a transaction. @throws what a second last one is refused with */
export async function insertRoute(
  within: Queryable,
  route: Route,
  place: NewPlace,
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<StoredRoute> {
  return routeFrom(
    oneRow(
      await within.rows<Row>(
        `insert into routes (place, is_last, definition, created_at, created_by, changed_at, changed_by)
         values (case when $2 = 'list' then (select coalesce(max(place), 0) + 1 from routes) end, $2 = 'last', $1, $3, $4, $3, $4)
         returning ${columns}`,
        [writeStored(routeForm, route), place, at, by]
      )
    )
  );
}

/** @param version that it has to have still @returns null when there is none of that id and version */
export async function changeRoute(
  db: Queryable,
  id: number,
  route: Route,
  version: number,
  { at, by }: { readonly at: Instant; readonly by: string }
): Promise<StoredRoute | null> {
  const rows = await db.rows<Row>(
    `update routes
     set definition = $2, version = version + 1, changed_at = $4, changed_by = $5
     where id = $1 and version = $3
     returning ${columns}`,
    [id, writeStored(routeForm, route), version, at, by]
  );
  return rows[0] ? routeFrom(rows[0]) : null;
}

/** Puts the routes of the list in an order. @param ids of all of them */
export async function orderRoutes(within: Queryable, ids: readonly number[]): Promise<void> {
  await within.rows(
    `update routes
     set place = wanted.place
     from unnest($1::integer[]) with ordinality as wanted (id, place)
     where routes.id = wanted.id and routes.place is not null`,
    [ids]
  );
}

/** @returns whether there was one */
export async function deleteRoute(within: Queryable, id: number): Promise<boolean> {
  return (await within.rows('delete from routes where id = $1 returning id', [id])).length > 0;
}
