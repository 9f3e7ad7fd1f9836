import { Refusal } from '$lib/core/problem/problem';

/** The refusal of a board that does not exist or may not be seen: the two are not told apart. */
export const noSuchBoard = (): Refusal =>
  new Refusal('not-found', 'There is no such board.', 'It may have been removed. See the list of boards.');

/** The refusal of a link to a board that is revoked, has expired or never was: the three are not told apart. */
export const noSuchLink = (): Refusal =>
  new Refusal('not-found', 'This link is not valid any more.', 'Ask whoever sent it for a new one.');
