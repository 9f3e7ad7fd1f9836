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
    const response = await fetch('/api/v1/boards', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...board, title: called })
    }).catch(() => null);
    if (response === null) return { problem: 'Bussola is not reached. Try again.' };
    const told = (await response.json()) as { id: number; message?: string; remedy?: string };
    if (response.ok) return { id: told.id };
    if (!told.message?.startsWith('There is already a board'))
      return { problem: [told.message, told.remedy].filter(Boolean).join(' ') };
  }
  return { problem: 'There are too many copies of it already: remove some.' };
}
