import { distance } from 'fastest-levenshtein';

/**
 * The word that somebody probably meant: the one that fewest changes of a letter lead to, where a third of its letters at most have to change; null where there is none.
 *
 * @example closestOf('BUSSOLA_STMP', ['PORT', 'BUSSOLA_SMTP']) // 'BUSSOLA_SMTP'
 */
export function closestOf(word: string, known: readonly string[]): string | null {
  let best: string | null = null;
  let least = Infinity;
  for (const one of known) {
    const changes = distance(word.toUpperCase(), one.toUpperCase());
    if (changes < least && changes <= one.length / 3) [best, least] = [one, changes];
  }
  return best;
}
