import { createHash } from 'node:crypto';
import { Refusal } from '$lib/core/problem/problem';

/**
 * The tag of an answer (RFC 9110, 8.8.3): another one once it says something else.
 *
 * @param text as it is sent
 * @example tagOf('{}') // '"RBNvo1WzZ4oRRq0W9-hknpT7T8If"'
 */
export const tagOf = (text: string): string =>
  `"${createHash('sha256').update(text).digest('base64url').slice(0, 28)}"`;

/** Tags that a header names; null for none. */
const tagsIn = (header: string): ReadonlySet<string> =>
  new Set(header.split(',').map((one) => one.trim().replace(/^W\//, '')));

/** Whether whoever asks has the answer already (If-None-Match). */
export function isKnown({ headers }: Request, tag: string): boolean {
  const given = headers.get('if-none-match');
  return given !== null && (given.trim() === '*' || tagsIn(given).has(tag));
}

/**
 * Refuses a change of what is not as it was read (If-Match).
 *
 * @param current tags of what there is, one for each way to write it; none where there is nothing
 * @throws Refusal `not-as-read`
 */
export function refuseUnlessRead({ headers }: Request, current: readonly string[]): void {
  const given = headers.get('if-match');
  if (given === null) return;
  const tags = tagsIn(given);
  if (current.length > 0 && (given.trim() === '*' || current.some((tag) => tags.has(tag)))) return;
  throw new Refusal(
    'not-as-read',
    'It is not as it was when it was read: the tag of If-Match is another one.',
    'Read it again, make the change to what it is now, and send its new tag.'
  );
}
