import { Refusal } from '../../problem/problem';
import { lineSeverities } from '../severity';
import { readSearch } from './read';
import { quotedSearch, writeSearch } from './write';
import type { Search } from './tree';

/** What can stand where somebody types a search. */
export interface Completing {
  /** A field or a word, or a value of a field. */
  readonly kind: 'field' | 'value';
  /** The field of a value; empty else. */
  readonly field: string;
  /** What is typed of it already. */
  readonly typed: string;
  /** From where to where it stands. */
  readonly from: number;
  readonly to: number;
}

/** Names that every line may be asked for. */
export const ownFieldNames = [
  ...['severity', 'service', 'resource', 'stream', 'account', 'text', 'shape', 'shape.age', 'trace', 'span', 'event']
] as const;

/**
 * What is being typed at a place of a search: the beginning of a field, or of a value behind a comparison.
 *
 * @param caret where it is typed, in characters
 * @returns null within quotes and patterns, where nothing is completed
 * @example completing('service = clu', 13) // { kind: 'value', field: 'service', typed: 'clu', from: 10, to: 13 }
 */
export function completing(text: string, caret: number): Completing | null {
  const before = text.slice(0, caret);
  if ((before.match(/(?<!\\)"/g) ?? []).length % 2 === 1) return null;
  if (/matches\s+\/[^/]*$/i.test(before)) return null;
  const typed = /[^\s()"=<>!≠≤≥]*$/.exec(before)?.[0] ?? '';
  const to = caret + (/^[^\s()"=<>!≠≤≥]*/.exec(text.slice(caret))?.[0].length ?? 0);
  const place = { typed, from: caret - typed.length, to };
  const compared = /([^\s()"=<>!≠≤≥]+|"(?:[^"\\]|\\.)*")\s*(?:!=|<=|>=|[=<>≠≤≥])\s*$/.exec(before.slice(0, place.from));
  const field = compared?.[1] ?? '';
  return field === ''
    ? { kind: 'field', field: '', ...place }
    : { kind: 'value', field: field.startsWith('"') ? field.slice(1, -1).replace(/\\(.)/g, '$1') : field, ...place };
}

/** Completions that are offered at once. */
const mostOffered = 8;

/**
 * What may be meant by what is typed: names of fields, or values, that begin with it first, then those that have it in them.
 *
 * @param known names of fields, or values of the field, the most frequent first
 * @example completions({ kind: 'value', field: 'severity', typed: 'er', from: 0, to: 2 }, []) // ['error']
 */
export function completions({ kind, field, typed }: Completing, known: readonly string[]): string[] {
  const all =
    kind === 'field'
      ? [...new Set([...ownFieldNames, ...known])]
      : field === 'severity'
        ? [...lineSeverities].reverse()
        : known;
  const small = typed.toLowerCase();
  const begins = all.filter((one) => one.toLowerCase().startsWith(small));
  const has = all.filter((one) => !one.toLowerCase().startsWith(small) && one.toLowerCase().includes(small));
  const offered = [...begins, ...has].slice(0, mostOffered);
  // One that stands there already is no help.
  return offered.length === 1 && offered[0] === typed ? [] : offered;
}

/**
 * A search with what is being typed completed, and where typing goes on.
 *
 * @example complete('sev', completing('sev', 3), 'severity') // { text: 'severity ', caret: 9 }
 */
export function complete(
  text: string,
  { kind, from, to }: Completing,
  chosen: string
): { readonly text: string; readonly caret: number } {
  const written = kind === 'field' && !/[\s()"=<>!]/.test(chosen) ? chosen : quotedSearch(chosen);
  const rest = text.slice(to);
  const put = `${written}${rest.startsWith(' ') ? '' : ' '}`;
  return { text: text.slice(0, from) + put + rest, caret: from + put.length + (rest.startsWith(' ') ? 1 : 0) };
}

/** A clause of a search, as a chip shows it. */
export interface Clause {
  readonly text: string;
  /** The search without it, and with what it says turned round. */
  readonly without: string;
  readonly turned: string;
  readonly isTurned: boolean;
}

/**
 * The clauses of a search, which all hold, each with what becomes of the search when it is taken away or turned round.
 *
 * @returns none for a search that is empty or cannot be read
 * @example clausesOf('killed service = clusters').map(({ text }) => text) // ['killed', 'service = clusters']
 */
export function clausesOf(text: string): Clause[] {
  let search: Search;
  try {
    search = readSearch(text);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return []; // the page says where and why
  }
  const parts = search.kind === 'all' ? search.parts : [search];
  const whole = (some: readonly Search[]): string =>
    some.length === 0 ? '' : some.map((part) => clauseText(part, some.length)).join(' ');
  return parts.map((part, index) => ({
    text: clauseText(part, 1),
    without: whole(parts.filter((_, other) => other !== index)),
    turned: whole(parts.map((one, other) => (other === index ? turned(one) : one))),
    isTurned: part.kind === 'not'
  }));
}

const turned = (part: Search): Search => (part.kind === 'not' ? part.of : { kind: 'not', of: part, at: part.at });

/** A clause as it stands beside others: in brackets where it would be read together with them. */
function clauseText(part: Search, beside: number): string {
  const text = writeSearch(part);
  return beside > 1 && part.kind === 'all' ? `(${text})` : text;
}
