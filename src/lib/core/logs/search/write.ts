import type { Search } from './tree';

/** Words that mean something in a search, and are looked for in quotes. */
export const reserved = ['and', 'or', 'not', 'has', 'matches'] as const;

/** What can be typed without quotes: no space, bracket, quote or sign of a comparison, and no word that means something. */
const isBare = (text: string): boolean =>
  /^(?:[^\s()"=<>!≠≤≥]|!(?!=))+$/.test(text) && !(reserved as readonly string[]).includes(text.toLowerCase());

/** A text as a search has it: in quotes where it needs them. @example quotedSearch('seatmap-2') // 'seatmap-2' */
export const quotedSearch = (text: string): string => (isBare(text) && !text.includes('*') ? text : quoted(text));

/** A text in quotes, as {@link readSearch} reads it. @example quoted('a "b"') // '"a \\"b\\""' */
export const quoted = (text: string): string => `"${text.replace(/["\\]/g, '\\$&')}"`;

/**
 * A search as it is typed: reading it gives the same tree, but for its places.
 *
 * @example writeSearch(readSearch('a and b   service = clusters')) // 'a and b service = clusters'
 */
export function writeSearch(search: Search): string {
  return search.kind === 'all' && search.parts.length !== 1
    ? search.parts.map((part) => written(part, 'clause')).join(' ')
    : written(search, 'clause');
}

const fieldText = (field: string): string => (isBare(field) ? field : quoted(field));

/** How tightly what stands around a part binds: clauses beside each other, parts of `or`, parts of `and`, what `not` is before. */
const tightness = ['clause', 'any', 'all', 'not'] as const;
type Within = (typeof tightness)[number];

function written(search: Search, within: Within): string {
  const binds = (own: Within, text: string): string =>
    tightness.indexOf(own) < tightness.indexOf(within) ? `(${text})` : text;
  switch (search.kind) {
    case 'all':
      // Clauses in brackets are read as clauses; one alone says nothing by itself.
      return search.parts.length === 0
        ? '()'
        : binds('any', search.parts.map((part) => written(part, 'all')).join(' and '));
    case 'any':
      return binds('clause', search.parts.map((part) => written(part, 'any')).join(' or '));
    case 'not':
      return `not ${written(search.of, 'not')}`;
    case 'words':
      return search.quoted || !isBare(search.text) ? quoted(search.text) : search.text;
    case 'compare':
      return `${fieldText(search.field)} ${search.operator} ${search.quoted || !isBare(search.value) ? quoted(search.value) : search.value}`;
    case 'matches':
      return `${fieldText(search.field)} matches /${search.pattern.replace(/\//g, '\\/')}/`;
    case 'has':
      return `has ${fieldText(search.field)}`;
    default:
      throw new RangeError(`writeSearch: no part "${String(search satisfies never)}"`);
  }
}
