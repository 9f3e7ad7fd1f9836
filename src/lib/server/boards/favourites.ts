// board_favourites, board_visits: favourites, and what each person opened
import { z } from 'zod';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Body of `PUT /api/v1/boards/…/favourite`. */
export const favouriteSchema = z.strictObject({ favourite: z.boolean() });

export async function setFavourite(
  db: Queryable,
  boardId: number,
  personId: number,
  isFavourite: boolean
): Promise<void> {
  await db.rows(
    isFavourite
      ? `insert into board_favourites (board_id, person_id)
         select id, $2 from boards where id = $1
         on conflict do nothing`
      : 'delete from board_favourites where board_id = $1 and person_id = $2',
    [boardId, personId]
  );
}

/** The ids of a person's favourite boards. */
export async function favouritesOf(db: Queryable, personId: number): Promise<number[]> {
  const rows = await db.rows<{ id: number }>('select board_id as id from board_favourites where person_id = $1', [
    personId
  ]);
  return rows.map(({ id }) => id);
}

/** When a person last saw each board. */
export const seenBy = (db: Queryable, personId: number): Promise<{ id: number; seenAt: Instant }[]> =>
  db.rows('select board_id as id, seen_at as "seenAt" from board_visits where person_id = $1 order by seen_at desc', [
    personId
  ]);
