import type { TextSpan } from '../problem/problem';

/** A piece of a line as it is shown: what was looked for is marked, what cannot be seen is named. */
export interface ShownPiece {
  readonly text: string;
  readonly kind: 'text' | 'marked' | 'hidden';
}

/** Colours and moves of a terminal (ECMA-48 control sequences): they say nothing here. */
// eslint-disable-next-line no-control-regex
const sequences = /\u001b(?:\[[0-?]*[ -/]*[@-~]|\][^\u0007\u001b]{0,200}(?:\u0007|\u001b\\)|[@-Z\\-_])/g;
/** A text without the colours and moves of a terminal. @example withoutSequences('\u001b[31merror\u001b[0m') // 'error' */
export const withoutSequences = (text: string): string => text.replace(sequences, '');

/** What is not seen, or turns around what is: control characters, and those that set the direction of text. */
// eslint-disable-next-line no-control-regex
const unseen = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u061c\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]/;

/**
 * A text in pieces that are harmless to show: sequences of a terminal are left out, characters that are not seen are named, such as `U+202E`.
 *
 * @param marks spans of the text in order, apart from each other
 * @param most characters that are shown
 * @example shownPieces('out of memory', [[7, 13]]) // [{ text: 'out of ', kind: 'text' }, { text: 'memory', kind: 'marked' }]
 */
export function shownPieces(text: string, marks: readonly TextSpan[] = [], most = Infinity): ShownPiece[] {
  const pieces: ShownPiece[] = [];
  const put = (part: string, kind: 'text' | 'marked'): void => {
    for (const [index, one] of part
      .replace(sequences, '')
      .split(/([\s\S])(?<=\p{Cc}|\p{Cf})/u)
      .entries()) {
      if (one === '') continue;
      if (index % 2 === 1 && unseen.test(one)) pieces.push({ text: nameOf(one), kind: 'hidden' });
      else {
        const last = pieces.at(-1);
        if (last?.kind === kind) pieces[pieces.length - 1] = { text: last.text + one, kind };
        else pieces.push({ text: one, kind });
      }
    }
  };
  let at = 0;
  const end = Math.min(text.length, most);
  for (const [from, to] of marks) {
    if (from >= end) break;
    if (from > at) put(text.slice(at, from), 'text');
    put(text.slice(Math.max(at, from), Math.min(end, to)), 'marked');
    at = Math.max(at, Math.min(end, to));
  }
  if (at < end) put(text.slice(at, end), 'text');
  if (text.length > most) pieces.push({ text: `and ${text.length - end} characters more`, kind: 'hidden' });
  return pieces;
}

/** A character by its number, as Unicode writes it. */
const nameOf = (one: string): string => `U+${(one.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')}`;
