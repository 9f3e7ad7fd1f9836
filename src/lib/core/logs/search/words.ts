/** A word of a text, in small letters, and where it stands. */
export interface FoundWord {
  readonly word: string;
  readonly from: number;
  readonly to: number;
}

const word = /[\p{L}\p{N}\p{M}]+/gu;
const wordOrStar = /[\p{L}\p{N}\p{M}*]+/gu;

/**
 * The words of a text: runs of letters and digits, in small letters.
 *
 * @param withStars whether `*` is a part of a word, as in a search that was typed
 * @example wordsIn('out-of-memory: seatmap_2').map(({ word }) => word) // ['out', 'of', 'memory', 'seatmap', '2']
 */
export function wordsIn(text: string, withStars = false): FoundWord[] {
  const found: FoundWord[] = [];
  for (const { 0: run, index } of text.matchAll(withStars ? wordOrStar : word))
    found.push({ word: run.toLowerCase(), from: index, to: index + run.length });
  return found;
}
