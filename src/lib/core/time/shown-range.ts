import { before, duration, durationFromText, hour, textFromDuration, times, type Duration } from './duration';
import { instantFromText, textFromInstant, type Instant } from './instant';
import { range, type Range } from './range';

/** The time span a view shows: live ones move with the clock, fixed ones do not. */
export type ShownRange =
  | { readonly kind: 'live'; readonly length: Duration }
  | { readonly kind: 'fixed'; readonly from: Instant; readonly to: Instant };

/** What is shown when an address says nothing. */
export const usualRange: ShownRange = { kind: 'live', length: times(3, hour) };

/** The longest and the shortest span that can be shown: 400 days, one minute. */
const longest = duration(400 * 86_400_000);
const shortest = duration(60_000);

/** Whether an address says a range, so that nothing is shown by default. */
export const saysRange = (search: URLSearchParams): boolean =>
  search.has('range') || (search.has('from') && search.has('to'));

/** A length of time that a board or a panel opens with; the usual range where it has none. @example usualOf('P2D') // { kind: 'live', length: 172800000 } */
export const usualOf = (length: string | undefined): ShownRange =>
  length === undefined ? usualRange : liveRange(durationFromText(length));

/** Whether a text is a length that can be shown: from a minute to 400 days. @example isShownLength('PT1S') // false */
export function isShownLength(text: string): boolean {
  try {
    return liveRange(durationFromText(text)).kind === 'live';
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}

/**
 * Reads a range from an address: `range=PT3H`, or `from` and `to` in RFC 3339. What cannot be read gives the usual range.
 *
 * @param usual what is shown when the address says nothing
 * @example shownRangeFrom(new URLSearchParams('range=PT6H')) // { kind: 'live', length: 21600000 }
 */
export function shownRangeFrom(search: URLSearchParams, usual: ShownRange = usualRange): ShownRange {
  try {
    const [from, to] = [search.get('from'), search.get('to')];
    if (from !== null && to !== null) return fixedRange(instantFromText(from), instantFromText(to));
    const length = search.get('range');
    if (length !== null) return liveRange(durationFromText(length));
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
  return usual;
}

/** @throws RangeError when it is shorter than a minute or longer than 400 days */
export function liveRange(length: Duration): ShownRange {
  if (length < shortest || length > longest)
    throw new RangeError(`liveRange: expected 1 minute to 400 days, got ${length} ms`);
  return { kind: 'live', length };
}

/** @throws RangeError when `to` is not after `from` by a minute to 400 days */
export function fixedRange(from: Instant, to: Instant): ShownRange {
  if (to - from < shortest || to - from > longest)
    throw new RangeError(`fixedRange: the end must be 1 minute to 400 days after the start, got ${to - from} ms`);
  return { kind: 'fixed', from, to };
}

/**
 * Writes a range for an address.
 *
 * @example shownRangeSearch({ kind: 'live', length: hour }) // 'range=PT1H'
 */
export const shownRangeSearch = (shown: ShownRange): string =>
  shown.kind === 'live'
    ? `range=${textFromDuration(shown.length)}`
    : `from=${encodeURIComponent(textFromInstant(shown.from))}&to=${encodeURIComponent(textFromInstant(shown.to))}`;

/** The instants that are shown at a moment. @example resolveRange({ kind: 'live', length: hour }, now) // [now − 1 h, now) */
export const resolveRange = (shown: ShownRange, now: Instant): Range =>
  shown.kind === 'live' ? range(before(now, shown.length), now) : range(shown.from, shown.to);

/**
 * The range a half-length earlier (−1) or later (+1). A step that would pass now ends at now.
 *
 * @example stepRange(shown, -1, now) // half a length back, fixed
 */
export function stepRange(shown: ShownRange, direction: -1 | 1, now: Instant): ShownRange {
  const { from, to } = resolveRange(shown, now);
  const half = Math.round((to - from) / 2);
  const end = Math.min(now, to + direction * half);
  return fixedRange((end - (to - from)) as Instant, end as Instant);
}
