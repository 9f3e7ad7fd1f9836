import { median, quantile } from 'simple-statistics';
import { fitBand } from '../src/lib/core/band';
import { duration, instant, type Grid } from '../src/lib/core/time';
import { accuracyOf, falseAlarms, labelledSet, meanAndDeviation, medianAndDeviation, ours } from './band-accuracy';
import { randomFrom } from './band-series';
import { inTurn, type Measurement } from './measurement';

const series = 27;
const seeds = [11, 12, 13];

/** How well bands find what is wrong with labelled series: F1 over spans, against the better of two usual ways that judge the same cells by the same rule. */
export function bandAccuracy(): Measurement {
  const wrong = seeds.flatMap((seed) => labelledSet(seed, series));
  const clean = seeds.flatMap((seed) => labelledSet(seed + 1000, series, true));
  const own = accuracyOf(wrong, ours);
  const mean = accuracyOf(wrong, meanAndDeviation);
  const middle = accuracyOf(wrong, medianAndDeviation);
  const isMean = mean.f1 >= middle.f1;
  const better = isMean ? mean : middle;
  return {
    name: 'band.accuracy',
    unit: 'F1 of spans',
    better: 'higher',
    ours: own.f1,
    theirs: better.f1,
    alternative: isMean
      ? 'mean ± 3 standard deviations by hour of the week'
      : 'robust seasonal median ± 3 scaled deviations',
    note: `${wrong.length} series of 30 days after 28 days of history; false alarms are those a clean series and month`,
    more: {
      precision: own.precision,
      recall: own.recall,
      delay: own.delay,
      falseAlarms: falseAlarms(clean, ours),
      meanF1: mean.f1,
      medianF1: middle.f1,
      theirFalseAlarms: falseAlarms(clean, isMean ? meanAndDeviation : medianAndDeviation)
    }
  };
}

const minutes = 28 * 1440;
/** Fits of a run: enough that it runs as it does in a thread that does little else. */
const manyFits = { ours: 150, theirs: 20 };

function repeated(count: number, work: () => unknown): void {
  for (let i = 0; i < count; i++) work();
}

/** Fitting four weeks of minutes, against the same decomposition by a well-known statistics package. */
export async function bandFit(): Promise<Measurement> {
  const random = randomFrom(5);
  const values = Float64Array.from(
    { length: minutes },
    (_, i) => 100 + 40 * Math.sin((2 * Math.PI * i) / 1440) + 8 * (random() + random() + random() - 1.5)
  );
  const grid: Grid = { start: instant(Date.UTC(2026, 0, 5)), step: duration(60_000), count: minutes };
  // Bands are fitted many after another, in a thread that does little else.
  const seconds = await inTurn(
    7,
    () => repeated(manyFits.ours, () => fitBand(values, grid)),
    () => repeated(manyFits.theirs, () => packaged(values))
  );
  return {
    name: 'band.fit',
    unit: 'ms',
    better: 'lower',
    ours: (seconds.ours * 1000) / manyFits.ours,
    theirs: (seconds.theirs * 1000) / manyFits.theirs,
    alternative: 'the same medians and quantiles by simple-statistics',
    note: 'four weeks of minutes: seasons of day and week, level, widths by hour; goal 15 ms'
  };
}

/** The same steps in the plainest way: medians of slots, of seven days, of the slots of a day and the hours of a week, of the 24 hours before each hour, and the quantiles of what is left. */
function packaged(values: Float64Array): number[] {
  const perDay = 288;
  const slots = Array.from({ length: minutes / 5 }, (_, s) => median([...values.subarray(s * 5, s * 5 + 5)]));
  const days = Array.from({ length: 28 }, (_, d) => median(slots.slice(d * perDay, (d + 1) * perDay)));
  const levels = days.map((_, d) =>
    median(days.slice(Math.max(0, Math.min(d - 3, 21)), Math.max(0, Math.min(d - 3, 21)) + 7))
  );
  const less = slots.map((value, i) => value - (levels[Math.floor(i / perDay)] as number));
  standsOut(less, less);
  const day = Array.from({ length: perDay }, (_, s) => median(less.filter((_, i) => i % perDay === s)));
  const left = less.map((value, i) => value - (day[i % perDay] as number));
  const week = Array.from({ length: 168 }, (_, h) => median(left.filter((_, i) => Math.floor(i / 12) % 168 === h)));
  standsOut(day, left);
  standsOut(week, left);
  spreadGrowth(values);
  const bare = slots.map(
    (value, i) => value - (day[i % perDay] as number) - (week[Math.floor(i / 12) % 168] as number)
  );
  const hours = Array.from({ length: 672 }, (_, h) => median(bare.slice(h * 12, h * 12 + 12)));
  const stands = hours.map((_, h) => (h === 0 ? (hours[0] as number) : median(hours.slice(Math.max(0, h - 24), h))));
  const strays = Array.from({ length: 24 }, (): number[] => []);
  for (let i = 0; i < values.length; i++) {
    const slot = Math.floor(i / 5);
    const hour = Math.floor(i / 60);
    const expected = (stands[hour] as number) + (day[slot % perDay] as number) + (week[hour % 168] as number);
    strays[hour % 24]?.push((values[i] as number) - expected);
  }
  return strays.flatMap((all) => [0.1, 0.25, 0.5, 0.75, 0.9].map((p) => quantile(all, p)));
}

/** Whether a profile stands out, as the fit asks: by the quartiles of both. */
const standsOut = (profile: readonly number[], left: readonly number[]): boolean =>
  quantile([...profile], 0.75) - quantile([...profile], 0.25) > quantile([...left], 0.75) - quantile([...left], 0.25);

/** How the spread of stretches grows with their level: the median of the slopes between all pairs of forty of them. */
function spreadGrowth(values: Float64Array): number {
  const stretches = Array.from({ length: 40 }, (_, n) => [...values.subarray(n * 1008, n * 1008 + 180)]);
  const spreads = stretches.map((all) =>
    Math.log(median(all.slice(1).map((value, i) => Math.abs(value - (all[i] as number)))))
  );
  const levels = stretches.map((all) => Math.log(median(all)));
  const slopes = levels.flatMap((level, i) =>
    levels
      .slice(i + 1)
      .map((other, j) => ((spreads[i + 1 + j] as number) - (spreads[i] as number)) / (other - level + 1e-9))
  );
  return median(slopes);
}
