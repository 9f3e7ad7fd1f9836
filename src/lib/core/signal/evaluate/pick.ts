import { Refusal } from '../../problem/problem';
import { isOfGrowth, unitOfStatistic, type PooledStatistic, type Stamp, type Statistic } from '../../series';
import type { Grid } from '../../time';
import { conversion } from '../../units';
import { labelValue, type Labels } from '../conditions';
import type { Combine, SignalPick } from '../schema';
import { combined } from './combine';
import type { PreparedLines, PreparedRow } from './prepare';
import { arrivedTogether, labelKey, type Column, type Table } from './table';
import { orGap } from './work';

/** A stored series that a pick selected. */
export interface Source {
  readonly id: number;
  readonly labels: Labels;
  readonly kind: 'gauge' | 'delta' | 'cumulative';
  readonly unit: string;
  readonly samplingMs: number;
  /** Whether its changes are stamped at their end; at their start when this is not said. */
  readonly stamp?: Stamp;
  /** Its cells that end by here are complete, ms since the epoch; all of them when this is not said. */
  readonly completeUntil?: number;
}

/** Where the numbers of sources come from. */
export interface Readings {
  /** The samples of a source over a grid. */
  pooled(sources: readonly Source[], grid: Grid, statistic: PooledStatistic): Float64Array;
  /** A source brought onto a grid; not to be written to. */
  aligned(source: Source, grid: Grid, statistic: Statistic): Float64Array;
  /** Start of the newest sample of a source; null when there is none. */
  newest(source: Source): number | null;
  /** A row of lines, counted on a grid. */
  counted(row: PreparedLines, grid: Grid): Table;
}

/** The statistics that combine several series by pooling their samples when each is aligned by the same one. */
const poolable: ReadonlySet<string> = new Set<PooledStatistic>([
  'avg',
  'median',
  'p75',
  'p90',
  'p95',
  'p99',
  'p99.9',
  'stddev'
]);

/** Whether a combination is worked out of all samples together. @example pools({ statistic: 'p95', combine: { statistic: 'p95', by: [] } }) // true */
export const pools = ({
  statistic,
  combine
}: {
  readonly statistic: Statistic;
  readonly combine?: Combine | undefined;
}): boolean => combine?.statistic === statistic && poolable.has(statistic);

/** Percentiles and deviations of which no further figure can be made without the samples. */
const endsOnly: ReadonlySet<Statistic> = new Set<Statistic>(['median', 'p75', 'p90', 'p95', 'p99', 'p99.9', 'stddev']);

/** Why a pick cannot combine so, in words; null when it can. */
export function combineProblem({ statistic, combine }: SignalPick): string | null {
  if (!combine || !endsOnly.has(statistic) || pools({ statistic, combine })) return null;
  return ['min', 'max', 'count'].includes(combine.statistic)
    ? null
    : `The ${combine.statistic} of several figures ${statistic} means nothing: combine by ${statistic} to have it of all samples together.`;
}

/**
 * Works a pick out: its sources aligned, one column each, or combined by groups of labels. Several units that measure the same are converted to the first's.
 *
 * @throws SignalFault when the sources do not measure the same, or cannot be combined so
 */
export function workOutPick(
  { pick, index }: PreparedRow & { kind: 'pick' },
  sources: readonly Source[],
  grid: Grid,
  readings: Readings
): Table {
  const problem = combineProblem(pick);
  if (problem !== null)
    throw new Refusal('signal-invalid', problem, 'Change how the row is combined.', {
      path: ['rows', index, 'combine', 'statistic']
    });
  const unit = unitOfStatistic(pick.statistic, sources[0]?.unit ?? '1');
  const conversions = sources.map((source) => conversionTo(source, sources[0] as Source, pick.statistic, index));
  const alignedOf = (source: Source, at: number): Float64Array => {
    const values = readings.aligned(source, grid, pick.statistic);
    const { scale, offset } = conversions[at] as Conversion;
    return scale === 1 && offset === 0 ? values : values.map((value) => orGap(value * scale + offset));
  };
  const { combine } = pick;
  if (!combine) {
    const columns = sources.map((source, at) => ({
      labels: source.labels,
      values: alignedOf(source, at),
      newest: readings.newest(source),
      completeUntil: source.completeUntil ?? Infinity,
      seriesId: source.id
    }));
    return { columns, unit, isRatio: false };
  }
  const groups = groupsOf(sources, combine.by);
  const pooling = pools(pick) && conversions.every(({ scale, offset }) => scale === 1 && offset === 0);
  const columns = groups.map(({ labels, members }): Column => {
    const values = pooling
      ? readings.pooled(
          members.map((at) => sources[at] as Source),
          grid,
          pick.statistic as PooledStatistic
        )
      : combined(
          members.map((at) => alignedOf(sources[at] as Source, at)),
          grid.count,
          combine.statistic
        );
    return {
      labels,
      values,
      ...arrivedTogether(
        members.map((at) => {
          const source = sources[at] as Source;
          return { newest: readings.newest(source), completeUntil: source.completeUntil ?? Infinity };
        })
      ),
      seriesId: null
    };
  });
  return { columns, unit: combine.statistic === 'count' ? '1' : unit, isRatio: false };
}

/** Sources by the values of some labels; a resource is told apart by its account too. */
function groupsOf(sources: readonly Source[], by: readonly string[]): { labels: Labels; members: number[] }[] {
  const names = by.includes('resource') && !by.includes('account') ? ['account', ...by] : by;
  const groups = new Map<string, { labels: Labels; members: number[] }>();
  for (const [at, { labels }] of sources.entries()) {
    const own = Object.fromEntries(names.map((name) => [name, labelValue(labels, name)]));
    const key = labelKey(own);
    const group = groups.get(key);
    if (group) group.members.push(at);
    else groups.set(key, { labels: own, members: [at] });
  }
  return [...groups.values()];
}

type Conversion = { readonly scale: number; readonly offset: number };
const asItIs: Conversion = { scale: 1, offset: 0 };
/** Statistics of differences: these have no zero that could be another one. */
const ofDifferences: ReadonlySet<Statistic> = new Set<Statistic>(['stddev', 'rate', 'increase']);

function conversionTo(source: Source, first: Source, statistic: Statistic, index: number): Conversion {
  if (isOfGrowth(statistic) && source.kind === 'gauge')
    throw new Refusal(
      'signal-invalid',
      `A value of the moment has no ${statistic}: only running totals and changes do.`,
      'Choose another statistic.',
      { path: ['rows', index, 'statistic'] }
    );
  if (statistic === 'count' || source.unit === first.unit) return asItIs;
  const converted = conversion(source.unit, first.unit);
  if (converted.kind === 'refused')
    throw new Refusal(
      'signal-invalid',
      `The row picks metrics that do not measure the same: ${first.unit} and ${source.unit}.`,
      'Pick them in rows of their own.',
      { path: ['rows', index, 'metric'] }
    );
  return ofDifferences.has(statistic) ? { ...converted, offset: 0 } : converted;
}
