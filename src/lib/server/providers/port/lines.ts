import { setTimeout as wait } from 'node:timers/promises';
import { instantFromText, type Instant } from '$lib/core/time';
import { malformed, type Exchanged } from './exchange';
import { ProviderError } from './provider';

/**
 * Up to when an answer has all lines, as one of its headers says.
 *
 * @param from what was asked for begins here: an answer that is complete up to an earlier moment says nothing
 * @throws ProviderError (malformed)
 */
export function completeUntil({ headers }: Pick<Exchanged, 'headers'>, name: string, from: Instant): Instant {
  const text = headers.get(name) ?? '';
  try {
    return Math.max(from, instantFromText(text)) as Instant;
  } catch {
    throw malformed(`The provider’s answer does not say up to when it has all lines (${name}).`);
  }
}

/** How often it is looked whether something is made, and how often at most; real time, since it is about a computer. */
const againAfterMs = 250;
const mostLooks = 240;

/**
 * What a provider makes when it is ordered, once it is made.
 *
 * @param look requests it
 * @param notYet the status that says: ask again; undefined where the first answer is it
 * @throws ProviderError (unavailable) where it is not made within a minute
 */
export async function onceMade<T extends Pick<Exchanged, 'status'>>(
  look: () => Promise<T>,
  notYet: number | undefined,
  signal: AbortSignal
): Promise<T> {
  for (let looks = 0; looks < mostLooks; looks++) {
    const answer = await look();
    if (answer.status !== notYet) return answer;
    await wait(againAfterMs, undefined, { signal });
  }
  throw new ProviderError(
    'unavailable',
    `What was ordered was not made within ${(againAfterMs * mostLooks) / 1000} s.`,
    'Nothing: Bussola orders it again.'
  );
}
