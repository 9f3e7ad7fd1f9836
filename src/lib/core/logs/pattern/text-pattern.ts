import { Refusal } from '../../problem/problem';

/** What a named part of a line may be: a run without spaces, a number, or anything up to what follows. */
export const partKinds = ['word', 'number', 'text'] as const;
export type PartKind = (typeof partKinds)[number];

/** A piece of a pattern: text that stands there, or a part that differs; one without a name is passed over. */
export type PatternPiece =
  | { readonly kind: 'still'; readonly text: string }
  | { readonly kind: 'part'; readonly name: string; readonly of: PartKind };

/** The most named parts of one pattern. */
export const mostParts = 30;

/**
 * Reads a pattern as it is written: the text of a line in which `‹name›` stands for a word that differs, `‹name:number›` for a number, `‹name:text›` for any text, and `‹…›` for what nobody wants to name. Lines may go on behind it.
 *
 * @throws Refusal with the place of what cannot be read
 * @example readTextPattern('took ‹ms:number› ms').length // 3
 */
export function readTextPattern(text: string): PatternPiece[] {
  const pieces: PatternPiece[] = [];
  const names = new Set<string>();
  let from = 0;
  for (const { 0: whole, 1: inner = '', index } of text.matchAll(/‹([^‹›]*)›/g)) {
    if (index > from) pieces.push({ kind: 'still', text: text.slice(from, index) });
    const before = pieces.at(-1);
    const place = [index, index + whole.length] as const;
    if (before?.kind === 'part')
      throw refused(
        'Two parts stand side by side, so it is not clear where one ends.',
        'Put what stands between them in the lines.',
        place
      );
    pieces.push(partOf(inner, names, place));
    from = index + whole.length;
  }
  const stray = /[‹›]/.exec(text.slice(from));
  if (stray)
    throw refused(`${stray[0]} stands alone.`, 'Write a part as ‹name›.', [from + stray.index, from + stray.index + 1]);
  if (from < text.length) pieces.push({ kind: 'still', text: text.slice(from) });
  if (names.size === 0)
    throw refused('It names no part of a line.', 'Mark a part of the line, such as ‹status:number›.', [0, text.length]);
  return pieces;
}

function partOf(inner: string, names: Set<string>, place: readonly [number, number]): PatternPiece {
  if (inner === '…' || inner === '') return { kind: 'part', name: '', of: 'text' };
  const [name = '', of = 'word'] = inner.split(':').map((part) => part.trim());
  if (!isPartName(name))
    throw refused(
      `“${name}” is no name of a field.`,
      'Use letters, digits, dots, _ and -, beginning with a letter.',
      place
    );
  if (!(partKinds as readonly string[]).includes(of))
    throw refused(`There is no kind “${of}”.`, `Use ${partKinds.join(', ')}.`, place);
  if (names.has(name)) throw refused(`Two parts are named ${name}.`, 'Give each a name of its own.', place);
  names.add(name);
  if (names.size > mostParts) throw refused(`It names more than ${mostParts} parts.`, 'Name fewer.', place);
  return { kind: 'part', name, of: of as PartKind };
}

/** Whether a field may be called so. @example isPartName('status_code') // true */
export const isPartName = (name: string): boolean => /^[A-Za-z][\w.-]{0,59}$/.test(name);

const refused = (message: string, remedy: string, place: readonly [number, number]): Refusal =>
  new Refusal('pattern-invalid', message, remedy, { place });

/** The pattern as it is written. @example writeTextPattern([{ kind: 'part', name: 'ms', of: 'number' }]) // '‹ms:number›' */
export const writeTextPattern = (pieces: readonly PatternPiece[]): string =>
  pieces
    .map((piece) =>
      piece.kind === 'still'
        ? piece.text
        : piece.name === ''
          ? '‹…›'
          : piece.of === 'word'
            ? `‹${piece.name}›`
            : `‹${piece.name}:${piece.of}›`
    )
    .join('');

/**
 * Makes a pattern ready to be tried on lines. It may begin anywhere in a line. A part ends where what follows it stands first, so that trying takes time in proportion to the line for each place where it may begin.
 *
 * @returns the values of its named parts by name; null for a line that does not match
 * @example textExtractor(readTextPattern('took ‹ms:number› ms'))('answer took 12 ms') // { ms: '12' }
 */
export function textExtractor(pieces: readonly PatternPiece[]): (text: string) => Record<string, string> | null {
  const [first] = pieces;
  return (text) => {
    if (first?.kind !== 'still') return matchedAt(pieces, text, 0);
    let at = text.indexOf(first.text);
    for (let tries = 0; at >= 0 && tries < mostBegins; tries++) {
      const found = matchedAt(pieces, text, at);
      if (found !== null) return found;
      at = text.indexOf(first.text, at + 1);
    }
    return null;
  };
}

/** Places of a line at which a pattern is tried. */
const mostBegins = 50;

function matchedAt(pieces: readonly PatternPiece[], text: string, from: number): Record<string, string> | null {
  const values: Record<string, string> = {};
  let at = from;
  for (const [index, piece] of pieces.entries()) {
    if (piece.kind === 'still') {
      if (!text.startsWith(piece.text, at)) return null;
      at += piece.text.length;
      continue;
    }
    const next = pieces[index + 1];
    const end =
      next?.kind === 'still' ? text.indexOf(next.text, at + (piece.of === 'text' ? 0 : 1)) : endOf(piece.of, text, at);
    if (end < 0) return null;
    const value = text.slice(at, end);
    if (!fits(piece.of, value)) return null;
    if (piece.name !== '') values[piece.name] = value;
    at = end;
  }
  return values;
}

/** Where the last part of a pattern ends. */
function endOf(of: PartKind, text: string, at: number): number {
  if (of === 'text') return text.length;
  const run = of === 'word' ? /\S+/y : /[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?/y;
  run.lastIndex = at;
  return run.test(text) ? run.lastIndex : -1;
}

const fits = (of: PartKind, value: string): boolean =>
  of === 'text' ||
  (of === 'word' ? value !== '' && !/\s/.test(value) : /^[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/.test(value));
