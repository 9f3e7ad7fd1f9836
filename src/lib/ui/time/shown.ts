import { page } from '$app/state';
import { durationFromText, shownRangeFrom, shownRangeSearch, type Duration, type ShownRange } from '$lib/core/time';
import { showSearch } from '../address';

/** The range that the address says. */
export const shownRange = (): ShownRange => shownRangeFrom(page.url.searchParams);

/** What an address says of time, and every page keeps: the range, how often it is read again, the step of all panels, and the zone. */
const rangeNames = ['range', 'from', 'to'] as const;
const keptNames = [...rangeNames, 'refresh', 'step', 'zone'] as const;

/** Whether a parameter of the address is about time, so that other pages keep it. */
export const isOfTime = (name: string): boolean => keptNames.some((kept) => kept === name);

/** A length of time that the address says; null where it says none that can be read. @example lengthSaid('refresh') // 60000 */
export function lengthSaid(name: string): Duration | null {
  try {
    const text = page.url.searchParams.get(name);
    return text === null ? null : durationFromText(text);
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

/** Shows another range: it becomes part of the address, so that "back" returns to the one before. */
export function showRange(shown: ShownRange): Promise<void> {
  const search = new URLSearchParams(page.url.search);
  for (const name of rangeNames) search.delete(name);
  for (const [name, value] of new URLSearchParams(shownRangeSearch(shown))) search.set(name, value);
  return showSearch(search);
}

/** An address within Bussola that keeps the shown range. @example withRange('/alarms') // '/alarms?range=PT3H' */
export function withRange(path: string): string {
  const kept = new URLSearchParams();
  for (const name of keptNames) {
    const value = page.url.searchParams.get(name);
    if (value !== null) kept.set(name, value);
  }
  return kept.size === 0 ? path : `${path}${path.includes('?') ? '&' : '?'}${kept.toString()}`;
}
