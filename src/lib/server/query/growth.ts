import { growthOf, monthsOf, reachedWhen, type Growth, type MonthOf, type Reached } from '$lib/core/growth';
import type { Signal } from '$lib/core/signal';
import { before, dateAfter, dateAt, day, firstInstantAt, textFromInstant, type Instant } from '$lib/core/time';
import { answerQuery } from './query';
import type { Reader } from './query-queue';

/** What is asked of how a signal goes on. */
export interface GrowthAsked {
  readonly signal: Signal;
  readonly daysBack: number;
  readonly daysAhead: number;
  readonly zone: string;
  /** Of which it is said when it is reached; null for none. */
  readonly limit: { readonly is: 'above' | 'below'; readonly at: number } | null;
}

/** One series by days, and how it goes on. */
export interface GrowthOfSeries {
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly resource: string;
  readonly unit: string;
  /** By day; null for gaps. */
  readonly values: readonly (number | null)[];
  /** Null with too few days. */
  readonly growth: Growth | null;
  readonly reached: Reached | null;
  readonly months: readonly MonthOf[];
}

export interface GrowthAnswer {
  /** When the days began, and those ahead. */
  readonly starts: readonly Instant[];
  readonly ahead: readonly Instant[];
  readonly series: readonly GrowthOfSeries[];
  /** Series that are left out. */
  readonly more: number;
}

/** Series of one answer at most: each takes a while. */
const mostSeries = 24;

type Answered = {
  readonly rows: readonly { readonly name: string; readonly unit: string }[];
  readonly series: readonly {
    readonly row: string;
    readonly name: string;
    readonly labels: Readonly<Record<string, string>>;
    readonly resource: string;
    readonly values: readonly (number | null)[];
  }[];
};

/**
 * How a signal goes on, day by day, from days that are over.
 *
 * @throws Refusal where the signal cannot be evaluated
 */
export async function growthOfSignal(
  server: Parameters<typeof answerQuery>[0],
  { signal, daysBack, daysAhead, zone, limit }: GrowthAsked,
  reader: Reader
): Promise<GrowthAnswer> {
  const today = dateAt(server.clock.now(), zone);
  const starts = Array.from({ length: daysBack }, (_, index) =>
    firstInstantAt(dateAfter(today, index - daysBack), '00:00', zone)
  );
  const ahead = Array.from({ length: daysAhead }, (_, index) => firstInstantAt(dateAfter(today, index), '00:00', zone));
  const bytes = await answerQuery(
    server,
    {
      ...{ signal: { ...signal, step: 'P1D' }, zone, values: 'numbers', times: 'epoch' },
      from: textFromInstant(starts[0] ?? before(server.clock.now(), day)),
      to: textFromInstant(firstInstantAt(today, '00:00', zone))
    },
    reader
  );
  const { rows, series } = JSON.parse(Buffer.from(bytes).toString('utf8')) as Answered;
  const shown = series.slice(0, mostSeries);
  const all: GrowthOfSeries[] = [];
  for (const { row, name, labels, resource, values } of shown) {
    const numbers = Float64Array.from(starts, (_, index) => values[index] ?? NaN);
    const growth = growthOf(numbers, daysAhead);
    all.push({
      ...{ name, labels, resource, growth, unit: rows.find((one) => one.name === row)?.unit ?? '1' },
      values: starts.map((_, index) => values[index] ?? null),
      reached: growth === null || limit === null ? null : reachedWhen(growth, limit.is, limit.at),
      months: monthsOf(starts, numbers, zone)
    });
    await new Promise<void>((next) => setImmediate(next)); // others go in between
  }
  return { starts, ahead, series: all, more: series.length - shown.length };
}
