import { isPartName, writeTextPattern, type PartKind, type PatternPiece } from './text-pattern';

/** A part of a sample line that somebody marked. */
export interface MarkedPart {
  /** From where to where it stands, in characters. */
  readonly from: number;
  readonly to: number;
  readonly name: string;
}

/**
 * A pattern from a sample line of which parts were marked: words with digits beside them are passed over, all else must stand there.
 *
 * @param marks apart from each other
 * @example patternFromSample('took 12 ms for 10.0.0.7', [{ from: 5, to: 7, name: 'ms' }]) // 'took ‹ms:number›'
 */
export function patternFromSample(sample: string, marks: readonly MarkedPart[]): string {
  const sorted = [...marks].sort((a, b) => a.from - b.from);
  const pieces: PatternPiece[] = [];
  let at = 0;
  for (const { from, to, name } of sorted) {
    pieces.push(...piecesOf(sample, at, from));
    pieces.push({ kind: 'part', name, of: kindOf(sample.slice(from, to)) });
    at = to;
  }
  // It may begin anywhere, so that what differs before it need not be said.
  while (pieces[0]?.kind === 'part' && pieces[0].name === '') pieces.shift();
  const last = pieces.at(-1);
  // Any text goes on up to what follows it.
  if (last?.kind === 'part' && last.of === 'text') {
    const [next] = piecesOf(sample, at, sample.length);
    if (next?.kind === 'still') pieces.push(next);
  }
  return writeTextPattern(pieces);
}

/** The kind of a marked part by its looks. @example kindOf('12.5') // 'number' */
export const kindOf = (text: string): PartKind =>
  /^[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/.test(text) ? 'number' : /\s/.test(text) ? 'text' : 'word';

/**
 * A name for a marked part: the key before it, or the word before it.
 *
 * @example nameBefore('status=500', 7) // 'status'
 */
export function nameBefore(sample: string, from: number): string {
  const key = /([A-Za-z][\w.-]*)["']?\s*[=:]\s*["']?$/.exec(sample.slice(0, from))?.[1];
  const word = /([A-Za-z][\w-]*)[^\w]*$/.exec(sample.slice(0, from))?.[1];
  const name = (key ?? word ?? '').slice(0, 40);
  return isPartName(name) ? name : 'value';
}

/** What lies between two marks: words with digits differ from line to line and are passed over. */
function piecesOf(sample: string, from: number, to: number): PatternPiece[] {
  const text = sample.slice(from, to);
  const pieces: PatternPiece[] = [];
  let still = 0;
  for (const { 0: word, index } of text.matchAll(/[^\s=()[\]{}"',;|]+/g)) {
    // A word of which a part is marked stays as it is.
    const isWhole = (index > 0 || from === 0) && (index + word.length < text.length || to === sample.length);
    if (!/[‹›]/.test(word) && (!isWhole || !/\d/.test(word))) continue;
    if (index > still) pieces.push({ kind: 'still', text: text.slice(still, index) });
    if (pieces.at(-1)?.kind !== 'part') pieces.push({ kind: 'part', name: '', of: 'text' });
    still = index + word.length;
  }
  if (still < text.length) pieces.push({ kind: 'still', text: text.slice(still) });
  return pieces;
}
