import type { TextSpan } from '../../problem/problem';

export const comparisons = ['=', '!=', '<', '<=', '>', '>='] as const;
export type Comparison = (typeof comparisons)[number];

/** A search of lines as a tree. `at` is where each part stands in what was typed. */
export type Search =
  /** All of these hold; none of them is every line. */
  | { readonly kind: 'all'; readonly parts: readonly Search[]; readonly at: TextSpan }
  | { readonly kind: 'any'; readonly parts: readonly Search[]; readonly at: TextSpan }
  | { readonly kind: 'not'; readonly of: Search; readonly at: TextSpan }
  /** Words that stand in the text of the line one after the other, in any letter case. In one that was typed without quotes, `*` stands for any part of a word. */
  | { readonly kind: 'words'; readonly text: string; readonly quoted: boolean; readonly at: TextSpan }
  | {
      readonly kind: 'compare';
      readonly field: string;
      readonly operator: Comparison;
      readonly value: string;
      /** Without quotes, `*` stands for any characters and a numeral for its number. */
      readonly quoted: boolean;
      readonly at: TextSpan;
    }
  /** A field, or `text` for the line itself, in which something matches a regular expression (RE2). */
  | { readonly kind: 'matches'; readonly field: string; readonly pattern: string; readonly at: TextSpan }
  | { readonly kind: 'has'; readonly field: string; readonly at: TextSpan };

/** How many parts a search has: what trying it on a line costs. @example partsIn(readSearch('a or b')) // 3 */
export function partsIn(search: Search): number {
  if (search.kind === 'not') return 1 + partsIn(search.of);
  if (search.kind === 'all' || search.kind === 'any')
    return 1 + search.parts.reduce((sum, part) => sum + partsIn(part), 0);
  return 1;
}

/** The fields that a search asks for, each once, in order. @example fieldsIn(readSearch('has a (b = 1 or a = 2)')) // ['a', 'b'] */
export function fieldsIn(search: Search): string[] {
  const fields = new Set<string>();
  const walk = (part: Search): void => {
    if (part.kind === 'not') walk(part.of);
    else if (part.kind === 'all' || part.kind === 'any') part.parts.forEach(walk);
    else if (part.kind !== 'words') fields.add(part.field);
  };
  walk(search);
  return [...fields];
}
