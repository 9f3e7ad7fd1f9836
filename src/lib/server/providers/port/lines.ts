import { instantFromText, type Instant } from '$lib/core/time';
import { malformed, type Exchanged } from './exchange';

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
