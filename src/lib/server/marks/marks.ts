// marks; events, which are shown beside them
import type { Mark, NewMark } from '$lib/core/mark';
import { instantFromText, type Instant, type Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Marks and events that are shown at most. */
const most = 500;

const columns = `id, from_at as "from", to_at as "to", text, board_id as board, service, source, made_by as by`;

/** Marks that lie in a range, newest first. With a board or services only those that are shown there: its own, those of its services, those of all; without, all but those of private boards. */
export const marksIn = (
  db: Queryable,
  { from, to }: Range,
  only: { readonly board?: number; readonly services?: readonly string[] } = {}
): Promise<Mark[]> =>
  db.rows<Mark>(
    `select ${columns}
     from marks
     where from_at < $2 and coalesce(to_at, from_at) >= $1
       and (board_id is null or board_id = $3::integer or ($3::integer is null and $4::text[] is null
         and exists (select from boards where boards.id = board_id and reach = 'workspace')))
       and (service is null or $4::text[] is null or service = any($4))
     order by from_at desc
     limit ${most}`,
    [from, to, only.board ?? null, only.services ?? null]
  );

/** The marked spans that touch a range, with the service that each is of; null for those of all. What is marked on a board alone is left out. */
export const markedSpans = (db: Queryable, { from, to }: Range): Promise<(Range & { service: string | null })[]> =>
  db.rows(
    `select from_at as "from", to_at as "to", service
     from marks
     where to_at > $1 and from_at < $2 and board_id is null`,
    [from, to]
  );

/** Events from providers of resources of some services, as marks. */
export const eventMarksIn = (db: Queryable, { from, to }: Range, services: readonly string[]): Promise<Mark[]> =>
  db.rows<Mark>(
    `select 0 as id, at as "from", null as "to", text, null as board, resources.service, 'provider' as source, accounts.name as by
     from events
     join accounts on accounts.id = events.account_id
     join resources on resources.account_id = events.account_id and resources.id = events.resource_id
     where at >= $1 and at < $2 and resources.service = any($3)
     order by at desc
     limit ${most}`,
    [from, to, services]
  );

/** @returns null when the board is gone */
export async function insertMark(
  db: Queryable,
  { text, from, to, board, service }: NewMark,
  by: { readonly name: string; readonly source: 'person' | 'program' },
  at: Instant
): Promise<Mark | null> {
  const rows = await db.rows<Mark>(
    `insert into marks (from_at, to_at, text, board_id, service, source, made_at, made_by)
     select $1::bigint, $2::bigint, $3, $4::integer, $5, $6, $7::bigint, $8
     where $4::integer is null or exists (select from boards where id = $4)
     returning ${columns}`,
    [
      instantFromText(from),
      to === undefined ? null : instantFromText(to),
      text,
      board ?? null,
      service ?? null,
      by.source,
      at,
      by.name
    ]
  );
  return rows[0] ?? null;
}

/** @returns null when there is none of that id */
export async function markById(db: Queryable, id: number): Promise<Mark | null> {
  const rows = await db.rows<Mark>(`select ${columns} from marks where id = $1`, [id]);
  return rows[0] ?? null;
}

/** @returns whether it was there */
export async function removeMark(db: Queryable, id: number): Promise<boolean> {
  return (await db.rows('delete from marks where id = $1 returning id', [id])).length > 0;
}
