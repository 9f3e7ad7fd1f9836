import type { Combine, Limit, SignalPick } from '../../src/lib/core/signal';

/** A sample as it came, with the labels of its series. */
export interface ReferenceSeries {
  readonly id: number;
  readonly labels: Readonly<Record<string, string>>;
  readonly samples: readonly { readonly at: number; readonly value: number }[];
}

export interface ReferenceColumn {
  readonly labels: Readonly<Record<string, string>>;
  readonly values: number[];
}

/** A figure of some numbers, as a textbook writes it; a gap for none. Whole numbers in, so that sums are exact. */
export function figure(values: readonly number[], statistic: string): number {
  if (values.length === 0) return NaN;
  const sum = values.reduce((all, one) => all + one, 0);
  const sorted = values.toSorted((one, other) => one - other);
  const quantile = (share: number): number => {
    const place = share * (sorted.length - 1);
    const [low, high] = [sorted[Math.floor(place)] as number, sorted[Math.ceil(place)] as number];
    return low + (high - low) * (place - Math.floor(place));
  };
  const mean = sum / values.length;
  const shares: Record<string, number> = { median: 0.5, p75: 0.75, p90: 0.9, p95: 0.95, p99: 0.99, 'p99.9': 0.999 };
  if (statistic in shares) return quantile(shares[statistic] as number);
  if (statistic === 'stddev')
    return values.length < 2
      ? NaN
      : Math.sqrt(values.reduce((all, one) => all + (one - mean) ** 2, 0) / (values.length - 1));
  const plain: Record<string, number> = {
    sum,
    count: values.length,
    avg: mean,
    min: sorted[0] as number,
    max: sorted.at(-1) as number,
    last: values.at(-1) as number
  };
  return plain[statistic] as number;
}

/**
 * What a pick gives, slowly and obviously: for each cell, for each group, filters all samples. Where the series of a group are combined by the statistic they are
 * aligned by, and that is an average, a percentile or a deviation, it is of all their samples together.
 */
export function referencePick(
  pick: SignalPick,
  all: readonly ReferenceSeries[],
  grid: { readonly start: number; readonly step: number; readonly count: number }
): ReferenceColumn[] {
  const within = (one: ReferenceSeries, cell: number): number[] =>
    one.samples
      .filter(({ at }) => Math.floor((at - grid.start) / grid.step) === cell)
      .toSorted((a, b) => a.at - b.at)
      .map(({ value }) => value);
  const cells = Array.from({ length: grid.count }, (_, cell) => cell);
  const { combine } = pick;
  if (!combine)
    return all.map((one) => ({
      labels: one.labels,
      values: cells.map((cell) => figure(within(one, cell), pick.statistic))
    }));
  const groups = new Map<string, ReferenceSeries[]>();
  for (const one of all) {
    const key = JSON.stringify(combine.by.map((label) => [label, one.labels[label] ?? '']));
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  const together = combine.statistic === pick.statistic && !['sum', 'count', 'min', 'max'].includes(pick.statistic);
  return [...groups].map(([key, members]) => ({
    labels: Object.fromEntries(JSON.parse(key) as [string, string][]),
    values: cells.map((cell) =>
      together
        ? figure(
            members.flatMap((one) => within(one, cell)),
            pick.statistic
          )
        : combinedFigure(
            members.map((one) => figure(within(one, cell), pick.statistic)),
            combine.statistic
          )
    )
  }));
}

const combinedFigure = (values: readonly number[], statistic: Combine['statistic']): number =>
  figure(
    values.filter((value) => !Number.isNaN(value)),
    statistic
  );

/** The names of the columns that a limit keeps, best first. */
export function referenceLimit(columns: readonly (ReferenceColumn & { name: string })[], limit: Limit): string[] {
  const score = ({ values }: ReferenceColumn): number =>
    figure(
      values.filter((value) => !Number.isNaN(value)),
      limit.by
    );
  const told = columns.filter((column) => !Number.isNaN(score(column)));
  const untold = columns.filter((column) => Number.isNaN(score(column)));
  const sign = limit.order === 'highest' ? -1 : 1;
  return [...told.toSorted((one, other) => sign * (score(one) - score(other))), ...untold]
    .slice(0, limit.keep)
    .map(({ name }) => name);
}
