// board_links: by which anybody may see a board
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
