import { Refusal } from '$lib/core/problem/problem';
import { governs, rightOn, type BoardRight, type Reader } from '$lib/core/board';
import type { Queryable } from '../db/pool';
import { allBoards, boardById, boardSummaries, boardTitles, type BoardSummary, type StoredBoard } from './boards';
import { noSuchBoard } from './not-found';

/** A board that somebody may use as they want to, or why not: one they may not even see is not there for them. */
export type Permit =
  | { readonly kind: 'yes'; readonly board: StoredBoard; readonly may: BoardRight }
  | { readonly kind: 'no'; readonly refusal: Refusal };

/** What somebody may need to be allowed: to govern a board is to remove it, share it further or publish it. */
export type BoardNeed = BoardRight | 'govern';

/** Whether a person may see, edit or govern a board. @example (await permitFor(db, person, 12, 'edit')).kind // 'yes' */
export async function permitFor(db: Queryable, person: Reader | null, id: number, need: BoardNeed): Promise<Permit> {
  const board = await boardById(db, id);
  const may = board && person ? rightOn(board.sharing, person) : null;
  if (board === null || may === null) return { kind: 'no', refusal: noSuchBoard() };
  const no = (message: string, remedy: string): Permit => ({
    kind: 'no',
    refusal: new Refusal('not-allowed', message, remedy)
  });
  const owner = board.sharing.ownerName ?? 'an administrator';
  if (need !== 'view' && may !== 'edit')
    return no(
      `You may see the board ${board.title}, but not change it.`,
      `Copy it to your boards, or ask ${owner} for the right to edit.`
    );
  if (need === 'govern' && !(person && governs(board.sharing, person)))
    return no(`Only the owner of ${board.title} and administrators may remove it or share it.`, `Ask ${owner}.`);
  return { kind: 'yes', board, may };
}

/**
 * The board, when a person may do with it what they want to.
 *
 * @throws Refusal `not-found` when they may not even see it, else `not-allowed`
 */
export async function permittedBoard(
  db: Queryable,
  person: Reader | null,
  id: number,
  need: BoardNeed
): Promise<StoredBoard> {
  const permit = await permitFor(db, person, id, need);
  if (permit.kind === 'no') throw permit.refusal;
  return permit.board;
}

/** A board that a person may see, and what they may do with it. */
export interface Seen<One> {
  readonly board: One;
  readonly may: BoardRight;
}

/** The boards that a person may see, by title. */
export const boardsFor = async (db: Queryable, person: Reader | null): Promise<Seen<StoredBoard>[]> =>
  seen(await allBoards(db), person);

/** {@link boardsFor} as lists show them. */
export const summariesFor = async (db: Queryable, person: Reader | null): Promise<Seen<BoardSummary>[]> =>
  seen(await boardSummaries(db), person);

/** {@link boardsFor} without what is on them. */
export const titlesFor = async (
  db: Queryable,
  person: Reader | null
): Promise<{ readonly id: number; readonly title: string; readonly may: BoardRight }[]> =>
  seen(await boardTitles(db), person).map(({ board: { id, title }, may }) => ({ id, title, may }));

const seen = <One extends Pick<StoredBoard, 'sharing'>>(boards: readonly One[], person: Reader | null): Seen<One>[] =>
  boards.flatMap((board) => {
    const may = person && rightOn(board.sharing, person);
    return may === null ? [] : [{ board, may }];
  });
