// board_visits: who is on a board, and when each person last was
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Somebody else who is on a board now. */
export interface Visitor {
  readonly name: string;
  readonly editing: boolean;
  /** The panel that they are changing; null when it is none. */
  readonly panel: string | null;
}

/** How long after the last sign of a browser its person counts as gone. */
const goneAfterMs = 30_000;

/**
 * Notes that a person is on a board.
 *
 * @returns the others who are there now; null when the board is gone
 */
export async function reportPresence(
  db: Queryable,
  boardId: number,
  { id, editing, panel }: { readonly id: number; readonly editing: boolean; readonly panel: string | null },
  at: Instant
): Promise<Visitor[] | null> {
  const noted = await db.rows(
    `insert into board_visits (board_id, person_id, seen_at, editing, panel)
     select boards.id, $2, $3, $4, $5 from boards where boards.id = $1
     on conflict (board_id, person_id) do update
     set seen_at = excluded.seen_at, editing = excluded.editing, panel = excluded.panel
     returning board_id`,
    [boardId, id, at, editing, panel]
  );
  if (noted.length === 0) return null;
  return db.rows<Visitor>(
    `select people.display_name as name, editing, panel
     from board_visits
     join people on people.id = person_id
     where board_id = $1 and person_id <> $2 and seen_at > $3
     order by people.display_name`,
    [boardId, id, at - goneAfterMs]
  );
}
