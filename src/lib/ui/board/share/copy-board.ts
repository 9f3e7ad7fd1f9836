import { callApi, wordsOf } from '../../api';
import type { Board } from '$lib/core/board';

/** Titles that are tried before giving up. */
const mostTries = 50;

/**
 * Makes a board of one's own out of a board.
 *
 * @returns its id, or why it was not made
 */
export async function copyOf({ title, ...board }: Board): Promise<{ id: number } | { problem: string }> {
  for (let number = 1; number <= mostTries; number++) {
    const called = `${title.slice(0, 100)}, copy${number === 1 ? '' : ` ${number}`}`;
    const reply = await callApi<{ id: number }>('POST', '/boards', { body: { ...board, title: called } });
    if (reply.kind === 'answered') return { id: reply.answer.id };
    if (reply.kind === 'refused' && reply.problem.code !== 'name-taken') return { problem: wordsOf(reply.problem) };
  }
  return { problem: 'There are too many copies of it already: remove some.' };
}
