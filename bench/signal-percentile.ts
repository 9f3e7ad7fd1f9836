import { quantileSorted } from 'simple-statistics';
import { groupSeries, pointsOfLength } from '../src/lib/core/series';
import { duration, instant, type Grid } from '../src/lib/core/time';
import { inTurn, type Measurement } from './measurement';

const series = 50;
const perCell = 60;
const cells = 24;

/** The 95th percentile of all readings of fifty series in each hour of a day, against a well-known statistics package on the same readings. */
export async function signalPercentile(): Promise<Measurement> {
  const grid: Grid = { start: instant(0), step: duration(3_600_000), count: cells };
  const all = Array.from({ length: series }, (_, which) => {
    const points = pointsOfLength(cells * perCell);
    for (let i = 0; i < cells * perCell; i++) {
      points.at[i] = i * 60_000;
      points.sum[i] = ((i * 7919 + which * 104_729) % 100_003) / 1000;
      points.count[i] = 1;
    }
    return points;
  });
  const ours = () => groupSeries(all, grid, 'p95');
  const theirs = () =>
    Array.from({ length: cells }, (_, cell) => {
      const readings = all.flatMap(({ sum }) => [...sum.subarray(cell * perCell, (cell + 1) * perCell)]);
      return quantileSorted(
        readings.sort((one, other) => one - other),
        0.95
      );
    });
  const packaged = theirs();
  ours().forEach((value, cell) => {
    // The package takes a reading, or the middle of two, where ours lies on the line between them: 3,000 readings lie close.
    if (Math.abs(value - (packaged[cell] as number)) > 0.1) throw new Error(`signal.percentile: cell ${cell} differs`);
  });
  const seconds = await inTurn(15, ours, theirs);
  const readings = series * cells * perCell;
  return {
    name: 'signal.percentile',
    unit: 'readings/s',
    better: 'higher',
    ours: readings / seconds.ours,
    theirs: readings / seconds.theirs,
    alternative: 'sort and quantileSorted of simple-statistics',
    note: `95th percentile of ${series * perCell} readings in each of ${cells} cells`
  };
}
