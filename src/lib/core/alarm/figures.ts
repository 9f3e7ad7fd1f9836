import { duration, hour, type Duration, type Instant, type Range } from '../time';
import { zoneOffsets } from './condition';
import type { RaisedPeriod } from './rehearse';
import type { Severity } from './severity';

/** Raised again within so long after it had cleared, a series flaps. */
export const flapsWithin = hour;
/** Hours of the clock at which people sleep: from the first until the second. */
const night = [22, 6] as const;
const dayMs = 86_400_000;
const hourMs = 3_600_000;

/** What a rehearsal comes to. */
export interface RehearsalFigures {
  readonly count: number;
  /** How often in a week. */
  readonly perWeek: number;
  /** Raised at the same time on several series counts once for each. */
  readonly raised: Duration;
  readonly longest: Duration;
  /** Periods that begin within an hour after the one before on the same series. */
  readonly flapping: number;
  /** Periods by series, those that were raised most often first. */
  readonly bySeries: readonly { readonly seriesId: number; readonly count: number; readonly raised: Duration }[];
  /** Messages to each recipient by hour of the clock: one when it is raised, one when it clears. */
  readonly messagesByHour: readonly number[];
  /** Of these, the ones from 22:00 to 06:00. */
  readonly messagesAtNight: number;
  /** Known incidents that it should have found, and those of them during which it would not have been raised. */
  readonly known: number;
  readonly missed: readonly KnownPeriod[];
}

/** An incident that people know of. */
export interface KnownPeriod {
  readonly id: number;
  /** What it is on, in words. */
  readonly subject: string;
  /** The gravest that it had. */
  readonly severity: Severity;
  readonly from: Instant;
  /** Null while it is open. */
  readonly to: Instant | null;
}

/**
 * Counts what a rehearsal found.
 *
 * @param span that was rehearsed
 * @param zone IANA zone of the hours
 * @param known incidents that an alarm should have found; one that lies outside of the span is left out
 * @example rehearsalFigures(periods, span, 'UTC', []).flapping // 2
 */
export function rehearsalFigures(
  periods: readonly RaisedPeriod[],
  span: Range,
  zone: string,
  known: readonly KnownPeriod[]
): RehearsalFigures {
  const offsetAt = zoneOffsets(zone);
  const lengthOf = ({ from, to }: RaisedPeriod) => Math.max(0, (to ?? span.to) - from);
  const messagesByHour = new Array<number>(24).fill(0);
  const note = (at: number) => {
    const hourOfDay = Math.floor(((at + offsetAt(at)) % dayMs) / hourMs);
    messagesByHour[hourOfDay] = (messagesByHour[hourOfDay] as number) + 1;
  };
  const bySeries = new Map<number, { seriesId: number; count: number; raised: number; last: number | null }>();
  let flapping = 0;
  for (const period of periods.toSorted((a, b) => a.from - b.from)) {
    const one = bySeries.get(period.seriesId) ?? { seriesId: period.seriesId, count: 0, raised: 0, last: null };
    if (one.last !== null && period.from - one.last < flapsWithin) flapping++;
    bySeries.set(period.seriesId, {
      ...one,
      count: one.count + 1,
      raised: one.raised + lengthOf(period),
      last: period.to ?? span.to
    });
    note(period.from);
    if (period.to !== null) note(period.to);
  }
  const overlaps = ({ from, to }: KnownPeriod) =>
    periods.some((period) => period.from < (to ?? span.to) && (period.to ?? span.to) > from);
  const within = known.filter(({ from, to }) => from < span.to && (to ?? span.to) > span.from);
  const lengths = periods.map(lengthOf);
  return {
    count: periods.length,
    perWeek: (periods.length * 7 * dayMs) / Math.max(1, span.to - span.from),
    raised: duration(lengths.reduce((sum, length) => sum + length, 0)),
    longest: duration(Math.max(0, ...lengths)),
    flapping,
    bySeries: [...bySeries.values()]
      .map(({ seriesId, count, raised }) => ({ seriesId, count, raised: duration(raised) }))
      .toSorted((a, b) => b.count - a.count || b.raised - a.raised),
    messagesByHour,
    messagesAtNight: messagesByHour.reduce(
      (sum, count, at) => (at >= night[0] || at < night[1] ? sum + count : sum),
      0
    ),
    known: within.length,
    missed: within.filter((one) => !overlaps(one))
  };
}
