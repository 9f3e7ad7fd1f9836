import { matcherOf } from './match';
import type { Search } from './tree';

/** A part of a search that has no parts of its own. */
export type SearchLeaf = Exclude<Search, { kind: 'all' | 'any' | 'not' }>;

/**
 * What is left of a search where some of its parts are known to hold for every line, or for none.
 *
 * @param know whether a part holds for all lines; null where that differs from line to line
 * @example simplify(readSearch('severity = error or memory'), (leaf) => (leaf.kind === 'words' ? false : null)) // what stands for severity = error
 */
export function simplify(search: Search, know: (leaf: SearchLeaf) => boolean | null): Search | boolean {
  if (search.kind === 'not') {
    const of = simplify(search.of, know);
    return typeof of === 'boolean' ? !of : { ...search, of };
  }
  if (search.kind !== 'all' && search.kind !== 'any') return know(search) ?? search;
  // One that decides it all: false where all must hold, true where one is enough.
  const deciding = search.kind === 'any';
  const left: Search[] = [];
  for (const part of search.parts) {
    const one = simplify(part, know);
    if (one === deciding) return deciding;
    if (typeof one !== 'boolean') left.push(one);
  }
  const [only] = left;
  if (only === undefined) return !deciding;
  return left.length === 1 ? only : { ...search, parts: left };
}

/**
 * Whether a search holds for every line of an account and a service, or for none.
 *
 * @returns null where that differs from line to line
 * @example holdsFor(readSearch('service = caches killed'), { account: 'a', service: 'clusters' }) // false
 */
export function holdsFor(
  search: Search,
  known: { readonly account: string; readonly service: string }
): boolean | null {
  const left = simplify(search, (leaf) => {
    if (leaf.kind === 'words' || (leaf.field !== 'account' && leaf.field !== 'service')) return null;
    const value = known[leaf.field];
    return matcherOf(leaf).matches({ text: '', severity: 0, field: () => value });
  });
  return typeof left === 'boolean' ? left : null;
}
