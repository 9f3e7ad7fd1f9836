import { RE2JS } from 're2js';
import { stars } from '../../pattern';
import type { TextSpan } from '../../problem/problem';
import { severityFromText, severityName } from '../severity';
import { isNumeral } from './read';
import type { Comparison, Search } from './tree';
import { wordsIn, type FoundWord } from './words';

/** What a field of a line holds, where it is one value; a list or a map is its JSON. */
export type FieldValue = string | number | bigint | boolean;

/** What a search looks at of a line. */
export interface SearchedLine {
  readonly text: string;
  /** OpenTelemetry's severity number; 0 where the line says none. */
  readonly severity: number;
  /** A field by its name, also of what every line has, such as `service`; undefined for one that it has not. */
  readonly field: (name: string) => FieldValue | undefined;
}

/** A search that is ready to be tried on lines. */
export interface Matcher {
  /** Whether it finds a line. */
  matches(line: SearchedLine): boolean;
  /** Where in a text what was looked for stands, in order and apart from each other. */
  marks(text: string): TextSpan[];
}

/**
 * Makes a search ready. Words are looked for in the text of a line, in any letter case; `!=` holds for lines that have the field with another value, `not field = value` also for those without it.
 *
 * @example matcherOf(readSearch('memory')).matches({ text: 'Out of memory', severity: 0, field: () => undefined }) // true
 */
export function matcherOf(search: Search): Matcher {
  const sequences: ((words: readonly FoundWord[]) => TextSpan[])[] = [];
  const patterns: RE2JS[] = [];
  const test = testOf(search, true, sequences, patterns);
  return {
    matches: (line) => {
      let words: FoundWord[] | null = null;
      return test(line, () => (words ??= wordsIn(line.text)));
    },
    marks: (text) => {
      const words = wordsIn(text);
      return apart([
        ...sequences.flatMap((find) => find(words)),
        ...patterns.flatMap((pattern) => foundBy(pattern, text))
      ]);
    }
  };
}

/** Where a part of a search that looks for words finds them among those of a text. */
export const wordFinder = ({ text, quoted }: Extract<Search, { kind: 'words' }>) => sequenceOf(text, quoted);

type Test = (line: SearchedLine, words: () => readonly FoundWord[]) => boolean;

/** @param isWanted whether what a part finds is marked: not within `not` */
function testOf(
  search: Search,
  isWanted: boolean,
  sequences: ((words: readonly FoundWord[]) => TextSpan[])[],
  patterns: RE2JS[]
): Test {
  switch (search.kind) {
    case 'all': {
      const parts = search.parts.map((part) => testOf(part, isWanted, sequences, patterns));
      return (line, words) => parts.every((part) => part(line, words));
    }
    case 'any': {
      const parts = search.parts.map((part) => testOf(part, isWanted, sequences, patterns));
      return (line, words) => parts.some((part) => part(line, words));
    }
    case 'not': {
      const of = testOf(search.of, !isWanted, sequences, patterns);
      return (line, words) => !of(line, words);
    }
    case 'words': {
      const find = sequenceOf(search.text, search.quoted);
      if (isWanted) sequences.push(find);
      const mayFind = mayStandIn(search);
      return (line, words) => mayFind(line.text) && find(words()).length > 0;
    }
    case 'compare':
      return search.field === 'severity' ? severityTest(search.operator, search.value) : valueTest(search);
    case 'matches': {
      const pattern = RE2JS.compile(search.pattern);
      if (search.field !== 'text')
        return ({ field }) => {
          const value = field(search.field);
          return value !== undefined && pattern.matcher(String(value)).find();
        };
      if (isWanted) patterns.push(pattern);
      return ({ text }) => pattern.matcher(text).find();
    }
    case 'has':
      return ({ field, severity }) => (search.field === 'severity' ? severity > 0 : field(search.field) !== undefined);
    default:
      throw new RangeError(`matcherOf: no part "${String(search satisfies never)}"`);
  }
}

/** Where words stand one after the other. */
function sequenceOf(text: string, isQuoted: boolean): (words: readonly FoundWord[]) => TextSpan[] {
  const wanted = wordsIn(text, !isQuoted).map(({ word }) =>
    word.includes('*') ? stars(word) : (one: string) => one === word
  );
  return (words) => {
    const found: TextSpan[] = [];
    for (let from = 0; from + wanted.length <= words.length; from++)
      if (wanted.every((is, index) => is(words[from + index]?.word ?? '')))
        found.push([words[from]?.from ?? 0, words[from + wanted.length - 1]?.to ?? 0]);
    return found;
  };
}

/**
 * Whether words can stand in a text at all, without taking it apart: most texts have none of them. Only of plain letters: what others become in small letters depends on what stands beside
 * them.
 */
function mayStandIn({ text, quoted }: Extract<Search, { kind: 'words' }>): (text: string) => boolean {
  const plain = wordsIn(text, !quoted).flatMap(({ word }) => (/^[a-z0-9]+$/.test(word) ? [word] : []));
  if (plain.length === 0) return () => true;
  return (of) => {
    const small = of.toLowerCase();
    return plain.every((word) => small.includes(word));
  };
}

/** Whether a number stands to a span of numbers as an operator says; to a number, where the span is one. */
const compares: Readonly<Record<Comparison, (value: number, from: number, to: number) => boolean>> = {
  '=': (value, from, to) => value >= from && value <= to,
  '!=': (value, from, to) => value < from || value > to,
  '<': (value, from) => value < from,
  '<=': (value, _from, to) => value <= to,
  '>': (value, _from, to) => value > to,
  '>=': (value, from) => value >= from
};

function severityTest(operator: Comparison, value: string): Test {
  const number = Number(value);
  const from = Number.isNaN(number) ? (severityFromText(value) ?? 0) : number;
  // A name stands for its four numbers, a number for itself.
  const isName = Number.isNaN(number) && severityName(from) === value.toLowerCase();
  const holds = compares[operator];
  return ({ severity }) => severity > 0 && holds(severity, from, isName ? from + 3 : from);
}

function valueTest({ field: name, operator, value, quoted }: Extract<Search, { kind: 'compare' }>): Test {
  const number = !quoted && isNumeral(value) ? Number(value) : NaN;
  const small = value.toLowerCase();
  const isText = quoted ? (text: string) => text === small : stars(small);
  const equals = (found: FieldValue): boolean => numberOf(found) === number || isText(String(found).toLowerCase());
  const holds = compares[operator];
  return ({ field }) => {
    const found = field(name);
    if (found === undefined) return false;
    if (operator === '=' || operator === '!=') return equals(found) === (operator === '=');
    return holds(numberOf(found), number, number);
  };
}

/** The number that a field holds, also one that is written as text; NaN for what is none. */
export const numberOf = (value: FieldValue): number =>
  typeof value === 'number' || typeof value === 'bigint'
    ? Number(value)
    : typeof value === 'string' && isNumeral(value)
      ? Number(value)
      : NaN;

function foundBy(pattern: RE2JS, text: string): TextSpan[] {
  const found: TextSpan[] = [];
  const matcher = pattern.matcher(text);
  while (matcher.find()) if (matcher.end() > matcher.start()) found.push([matcher.start(), matcher.end()]);
  return found;
}

/** Spans in order, those that touch or overlap as one. */
function apart(spans: readonly TextSpan[]): TextSpan[] {
  const joined: [number, number][] = [];
  for (const [from, to] of spans.toSorted((a, b) => a[0] - b[0])) {
    const last = joined.at(-1);
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else joined.push([from, to]);
  }
  return joined;
}
