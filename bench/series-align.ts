import { alignSeries, pointsOfLength, type SummaryPoints } from '../src/lib/core/series';
import { duration, instant, type Grid } from '../src/lib/core/time';
import { inTurn, type Measurement } from './measurement';

const points = 10_000_000;

/** Seconds to bring ten million points onto 5-minute cells as averages, against a plain reduce for each cell. */
export async function seriesAlign(): Promise<Measurement> {
  const series = tenMillion();
  const grid: Grid = { start: instant(0), step: duration(300_000), count: points / 5 };
  const [ours, theirs] = [alignSeries(series, grid, 'avg'), plainReduce(series, grid)];
  for (let i = 0; i < grid.count; i++)
    if (Math.abs((ours[i] as number) - (theirs[i] as number)) > 1e-9)
      throw new Error(`series.align: cell ${i} differs`);
  const seconds = await inTurn(
    5,
    () => alignSeries(series, grid, 'avg'),
    () => plainReduce(series, grid)
  );
  return {
    name: 'series.align',
    unit: 'samples/s',
    better: 'higher',
    ours: points / seconds.ours,
    theirs: points / seconds.theirs,
    alternative: 'subarray and Array.prototype.reduce over sum and count of each cell, uncompensated',
    note: `${points.toLocaleString('en')} points onto ${grid.count.toLocaleString('en')} cells; ours compensates its sums and finds the cells by instant, theirs is told how many points each holds`
  };
}

function tenMillion(): SummaryPoints {
  const series = pointsOfLength(points);
  for (let i = 0; i < points; i++) {
    series.at[i] = i * 60_000;
    series.sum[i] = (i * 7919) % 1201;
    series.count[i] = 12;
    series.max[i] = 100;
  }
  return series;
}

function plainReduce(series: SummaryPoints, grid: Grid): Float64Array {
  const perCell = grid.step / 60_000;
  return Float64Array.from({ length: grid.count }, (_, cell) => {
    const within = [cell * perCell, (cell + 1) * perCell] as const;
    const add = (sum: number, value: number) => sum + value;
    return series.sum.subarray(...within).reduce(add, 0) / series.count.subarray(...within).reduce(add, 0);
  });
}
