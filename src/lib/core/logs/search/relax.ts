import type { Search } from './tree';

/**
 * A search that finds at least what another finds, without asking for some fields: those that are known only after a line was read.
 *
 * @param isLater whether a field is one of them
 * @example writeSearch(relaxed(readSearch('fares status >= 500'), (field) => field === 'status')) // 'fares'
 */
export function relaxed(search: Search, isLater: (field: string) => boolean): Search {
  const left = leftOf(search, isLater, true);
  return typeof left === 'boolean' ? { kind: 'all', parts: [], at: search.at } : left;
}

/** @param wanted what a part that is not known yet is taken for: within `not`, the other way round */
function leftOf(search: Search, isLater: (field: string) => boolean, wanted: boolean): Search | boolean {
  if (search.kind === 'not') {
    const of = leftOf(search.of, isLater, !wanted);
    return typeof of === 'boolean' ? !of : { ...search, of };
  }
  if (search.kind !== 'all' && search.kind !== 'any')
    return search.kind !== 'words' && isLater(search.field) ? wanted : search;
  const deciding = search.kind === 'any';
  const parts: Search[] = [];
  for (const part of search.parts) {
    const left = leftOf(part, isLater, wanted);
    if (left === deciding) return deciding;
    if (typeof left !== 'boolean') parts.push(left);
  }
  return parts.length === 0 ? !deciding : { ...search, parts };
}
