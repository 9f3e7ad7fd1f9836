// board_links, boards, marks: by which anybody may see a board
import { createHash, randomBytes } from 'node:crypto';
import type { Choices } from '$lib/core/board';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import { boardById, type StoredBoard } from './boards';

export interface BoardLink {
  readonly id: number;
  readonly madeAt: Instant;
  readonly madeBy: string;
  readonly expiresAt: Instant;
  readonly revokedAt: Instant | null;
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();

/** @returns the token of the link, which is shown once: only its hash is stored */
export async function makeLink(
  db: Queryable,
  boardId: number,
  choices: Choices,
  expiresAt: Instant,
  by: string,
  at: Instant
): Promise<{ id: number; token: string }> {
  const token = randomBytes(24).toString('base64url');
  const { id } = oneRow(
    await db.rows<{ id: number }>(
      `insert into board_links (board_id, hash, choices, made_at, made_by, expires_at)
       values ($1, $2, $3, $4, $5, $6)
       returning id`,
      [boardId, hashOf(token), JSON.stringify(choices), at, by, expiresAt]
    )
  );
  return { id, token };
}

/** Links of a board that have not run out, newest first. */
export const linksOfBoard = (db: Queryable, boardId: number, now: Instant): Promise<BoardLink[]> =>
  db.rows<BoardLink>(
    `select id, made_at as "madeAt", made_by as "madeBy", expires_at as "expiresAt", revoked_at as "revokedAt"
     from board_links
     where board_id = $1 and expires_at > $2 and revoked_at is null
     order by made_at desc`,
    [boardId, now]
  );

export async function revokeLink(db: Queryable, boardId: number, id: number, at: Instant): Promise<void> {
  await db.rows('update board_links set revoked_at = $3 where board_id = $1 and id = $2 and revoked_at is null', [
    boardId,
    id,
    at
  ]);
}

/** What goes with a board: its links that are not ended, and the marks that stand on it alone. */
export const usesOfBoard = (
  db: Queryable,
  boardId: number
): Promise<{ readonly kind: 'link' | 'mark'; readonly id: number; readonly name: string }[]> =>
  db.rows(
    `select 'link' as kind, id, 'made by ' || made_by as name from board_links where board_id = $1 and revoked_at is null
     union all
     select 'mark', id, text from marks where board_id = $1
     order by 1, 2`,
    [boardId]
  );

/** A link that expired, with its board. */
export interface ExpiredLink {
  readonly id: number;
  readonly board: string;
  readonly madeBy: string;
  readonly expiresAt: Instant;
  /** Whether nobody but its owner may know of the board. */
  readonly isPrivate: boolean;
}

/** Links that expired and that nobody has ended, the oldest first. */
export const expiredLinks = (db: Queryable, now: Instant): Promise<ExpiredLink[]> =>
  db.rows<ExpiredLink>(
    `select board_links.id, boards.title as board, made_by as "madeBy", expires_at as "expiresAt", reach = 'private' as "isPrivate"
     from board_links
     join boards on boards.id = board_id
     where expires_at <= $1 and revoked_at is null
     order by expires_at, board_links.id
     limit 500`,
    [now]
  );

/** Forgets a link that expired. @returns whether there was one */
export const forgetExpiredLink = async (db: Queryable, id: number, now: Instant): Promise<boolean> =>
  (await db.rows('delete from board_links where id = $1 and expires_at <= $2 returning id', [id, now])).length > 0;

/** The board of a link with what is picked on it; null when the link is revoked, has run out or never was. */
export async function boardOfLink(
  db: Queryable,
  token: string,
  now: Instant
): Promise<{ id: number; board: StoredBoard; choices: Choices; expiresAt: Instant } | null> {
  const [row] = await db.rows<{ id: number; boardId: number; choices: Choices; expiresAt: Instant }>(
    `select id, board_id as "boardId", choices, expires_at as "expiresAt"
     from board_links
     where hash = $1 and expires_at > $2 and revoked_at is null`,
    [hashOf(token), now]
  );
  const board = row ? await boardById(db, row.boardId) : null;
  return row && board ? { id: row.id, board, choices: row.choices, expiresAt: row.expiresAt } : null;
}
