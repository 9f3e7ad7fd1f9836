import { page } from '$app/state';
import {
  durationFromText,
  peopleMoment,
  type Dates,
  shownRangeFrom,
  shownRangeSearch,
  spokenDuration,
  usualOf,
  type Duration,
  type Instant,
  type ShownRange
} from '$lib/core/time';
import { showSearch } from '../address';

/** What is shown when the address says no range: what the page's board opens with, else the usual. */
export const usualShown = (): ShownRange => usualOf((page.data as { board?: { range?: string } }).board?.range);

/** The range that the address says. */
export const shownRange = (): ShownRange => shownRangeFrom(page.url.searchParams, usualShown());

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

/** A range in words. @example rangeWords({ kind: 'live', length: hour }, now, 'UTC') // 'Last 1 hour' */
export const rangeWords = (shown: ShownRange, now: Instant, dates: Dates): string =>
  shown.kind === 'live'
    ? `Last ${spokenDuration(shown.length)}`
    : `${peopleMoment(shown.from, now, dates)} to ${peopleMoment(shown.to, now, dates)}`;

/** How often something is read again, ms, of what the address or a board says: 0 with every sample that arrives, null not by itself. @example refreshOf('PT1M') // 60000 */
export function refreshOf(ownSearch: string | undefined): number | null {
  if (ownSearch === 'off') return null;
  try {
    return ownSearch === undefined ? 0 : durationFromText(ownSearch);
  } catch (error) {
    if (error instanceof RangeError) return 0;
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

/**
 * An address that keeps the range and what is picked on a board, as links to other boards do; what it says itself goes before.
 *
 * @param search of the page
 * @example keepingPicks('/boards/3#top', new URLSearchParams('range=PT3H&pick.region=perla-1')) // '/boards/3?range=PT3H&pick.region=perla-1#top'
 */
export function keepingPicks(path: string, search: URLSearchParams): string {
  const [to = '', hash] = path.split('#');
  const [place = '', own = ''] = to.split('?');
  const ownSearch = new URLSearchParams(own);
  const all = new URLSearchParams(own);
  for (const [name, value] of search)
    if ((isOfTime(name) || name.startsWith('pick.')) && !ownSearch.has(name)) all.append(name, value);
  return `${place}${all.size === 0 ? '' : `?${all.toString()}`}${hash === undefined ? '' : `#${hash}`}`;
}
