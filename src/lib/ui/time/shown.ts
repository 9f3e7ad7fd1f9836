import { goto } from '$app/navigation';
import { page } from '$app/state';
import { shownRangeFrom, shownRangeSearch, type ShownRange } from '$lib/core/time';

/** The range that the address says. */
export const shownRange = (): ShownRange => shownRangeFrom(page.url.searchParams);

/** Shows another range: it becomes part of the address, so that "back" returns to the one before. */
export function showRange(shown: ShownRange): Promise<void> {
  const search = new URLSearchParams(page.url.search);
  for (const name of ['range', 'from', 'to']) search.delete(name);
  for (const [name, value] of new URLSearchParams(shownRangeSearch(shown))) search.set(name, value);
  return goto(`?${search.toString()}`, { keepFocus: true, noScroll: true });
}

/** An address within Bussola that keeps the shown range. @example withRange('/alarms') // '/alarms?range=PT3H' */
export function withRange(path: string): string {
  const kept = new URLSearchParams();
  for (const name of ['range', 'from', 'to']) {
    const value = page.url.searchParams.get(name);
    if (value !== null) kept.set(name, value);
  }
  return kept.size === 0 ? path : `${path}${path.includes('?') ? '&' : '?'}${kept.toString()}`;
}
