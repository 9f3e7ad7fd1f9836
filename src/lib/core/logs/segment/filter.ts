/** Bits for each word, and how many of them it sets: about 2 of 100 words that are not there seem to be. */
const bitsPerWord = 8;
const hashes = 5;

/** Two hashes of a word (FNV-1a of its UTF-16 units, and one mixed out of it), from which the others are made. */
function hashOf(word: string): readonly [number, number] {
  let hash = 0x811c9dc5;
  for (let index = 0; index < word.length; index++) hash = Math.imul(hash ^ word.charCodeAt(index), 0x01000193);
  let other = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
  other = Math.imul(other ^ (other >>> 12), 0x297a2d39);
  return [hash >>> 0, ((other ^ (other >>> 15)) | 1) >>> 0];
}

/**
 * A small set of words that never misses one that is in it, and now and then finds one that is not.
 *
 * Source: B. H. Bloom, "Space/time trade-offs in hash coding with allowable errors", 1970; its hashes by A. Kirsch and M. Mitzenmacher, "Less hashing, same performance", 2006.
 *
 * @example mayHave(filterOf(new Set(['seatmap', '4127'])), '4127') // true
 */
export function filterOf(words: ReadonlySet<string>): Uint8Array {
  if (words.size === 0) return new Uint8Array(0);
  const filter = new Uint8Array(Math.max(1, Math.ceil((words.size * bitsPerWord) / 8)));
  const bits = filter.length * 8;
  for (const word of words) {
    const [hash, step] = hashOf(word);
    for (let index = 0; index < hashes; index++) {
      const bit = (hash + index * step) % bits;
      filter[bit >>> 3] = (filter[bit >>> 3] ?? 0) | (1 << (bit & 7));
    }
  }
  return filter;
}

/** Whether a filter may have a word; false when it surely has not. */
export function mayHave(filter: Uint8Array, word: string): boolean {
  if (filter.length === 0) return false;
  const bits = filter.length * 8;
  const [hash, step] = hashOf(word);
  for (let index = 0; index < hashes; index++) {
    const bit = (hash + index * step) % bits;
    if (((filter[bit >>> 3] ?? 0) & (1 << (bit & 7))) === 0) return false;
  }
  return true;
}
