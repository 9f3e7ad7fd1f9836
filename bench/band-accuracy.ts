import { compareWith, judgeSeries, noMemory, usualWidths, type Comparison, type Rule } from '../src/lib/core/alarm';
import { bandCells, bandLeadHours, fitBand } from '../src/lib/core/band';
import { cellStart, range, type Grid, type Range } from '../src/lib/core/time';
import { labelledSeries, type Label, type LabelledSeries } from './band-series';

const perDay = 288;
const historyCells = 28 * perDay;
/** An alarm that begins so long after what was wrong has ended, in cells, is still counted to it: windows empty one by one. */
const tail = 12;

/** The same rule for all ways: two of the last three cells of five minutes. */
const ruleOf = (widths: number): Rule => ({
  levels: [{ severity: 'major', condition: { kind: 'band', is: 'outside', widths } }],
  window: { needs: 2, of: 3 },
  whenMissing: 'keep',
  zone: 'UTC'
});

/** Bounds for each cell of the test, made from what was known a day before at the latest. */
export type Way = (series: LabelledSeries) => { readonly low: Float64Array; readonly high: Float64Array };

/** Spans of cells in which an alarm would have been raised. */
export function raisedSpans(series: LabelledSeries, way: Way): readonly (readonly [number, number])[] {
  const { low, high } = way(series);
  const subject = series.values.subarray(series.testFrom);
  const comparison: Comparison = { subject, low, high, clearLow: low, clearHigh: high, meets: 'outside' };
  const rule = ruleOf(1);
  const { transitions } = judgeSeries(rule, noMemory(rule), [comparison], 0, subject.length);
  const spans: (readonly [number, number])[] = [];
  let open: number | null = null;
  for (const { index, to } of transitions) {
    if (to.severity !== null && open === null) open = index;
    if (to.severity === null && open !== null) {
      spans.push([series.testFrom + open, series.testFrom + index]);
      open = null;
    }
  }
  if (open !== null) spans.push([series.testFrom + open, series.values.length]);
  return spans;
}

/** Ours: a band fitted anew each day on the four weeks before, its level each hour. What it raised so far is left out of what is learned, as past incidents are. */
export const ours: Way = ({ values, grid, testFrom, bounds }) => {
  const count = values.length - testFrom;
  const low = new Float64Array(count);
  const high = new Float64Array(count);
  const exclude: Range[] = [];
  const rule = ruleOf(usualWidths);
  let memory = noMemory(rule);
  let since: number | null = null;
  const slice = (first: number, end: number): Grid => ({
    start: cellStart(grid, first),
    step: grid.step,
    count: end - first
  });
  for (let day = testFrom; day < values.length; day += perDay) {
    const end = Math.min(values.length, day + perDay);
    const from = Math.max(0, day - historyCells);
    const model = fitBand(values.subarray(from, day), slice(from, day), { bounds, exclude });
    const lead = day - (bandLeadHours * perDay) / 24;
    const band = bandCells(values.subarray(lead, end), slice(lead, end), day - lead, () => model);
    const [comparison] = compareWith(rule.levels[0]!.condition, {
      grid: slice(day, end),
      columns: [values.subarray(day, end)],
      bands: [band],
      zone: 'UTC'
    });
    low.set(comparison!.low as Float64Array, day - testFrom);
    high.set(comparison!.high as Float64Array, day - testFrom);
    const judged = judgeSeries(rule, memory, [comparison!], 0, end - day);
    memory = judged.memory;
    for (const { index, to } of judged.transitions) {
      if (to.severity !== null) since ??= day + index;
      else if (since !== null) {
        exclude.push(range(cellStart(grid, since - 2), cellStart(grid, day + index)));
        since = null;
      }
    }
  }
  return { low, high };
};

/** By hour of the week, a centre and a deviation from the four weeks before. */
const byHourOfWeek =
  (summary: (values: number[]) => readonly [number, number]): Way =>
  ({ values, testFrom }) => {
    const count = values.length - testFrom;
    const low = new Float64Array(count);
    const high = new Float64Array(count);
    let bins: (readonly [number, number])[] = [];
    for (let i = 0; i < count; i++) {
      const at = testFrom + i;
      if (i % perDay === 0) {
        const all: number[][] = Array.from({ length: 168 }, () => []);
        for (let j = at - historyCells; j < at; j++) {
          const value = values[j] as number;
          if (!Number.isNaN(value)) all[hourOfWeek(j)]?.push(value);
        }
        bins = all.map(summary);
      }
      const [centre, deviation] = bins[hourOfWeek(at)] ?? [NaN, NaN];
      low[i] = centre - 3 * deviation;
      high[i] = centre + 3 * deviation;
    }
    return { low, high };
  };

const hourOfWeek = (index: number): number => Math.floor(index / 12) % 168;

export const meanAndDeviation = byHourOfWeek((values) => {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / Math.max(1, values.length - 1);
  return [mean, Math.sqrt(variance)];
});

export const medianAndDeviation = byHourOfWeek((values) => {
  const middle = medianOf(values);
  return [middle, 1.4826 * medianOf(values.map((value) => Math.abs(value - middle)))];
});

function medianOf(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1
    ? (sorted[middle] as number)
    : ((sorted[middle - 1] as number) + (sorted[middle] as number)) / 2;
}

/** How well a way finds what is wrong: spans of alarms against labelled spans. */
export interface Accuracy {
  readonly precision: number;
  readonly recall: number;
  readonly f1: number;
  /** The median time from the beginning of what is wrong to the alarm, minutes. */
  readonly delay: number;
  readonly missed: ReadonlyMap<Label['kind'], number>;
}

export function accuracyOf(all: readonly LabelledSeries[], way: Way): Accuracy {
  let [right, alarms, found, labelled] = [0, 0, 0, 0];
  const delays: number[] = [];
  const missed = new Map<Label['kind'], number>();
  for (const series of all) {
    const spans = raisedSpans(series, way);
    const touches = ([from, to]: readonly [number, number], label: Label) => from < label.to + tail && to >= label.from;
    alarms += spans.length;
    right += spans.filter((span) => series.labels.some((label) => touches(span, label))).length;
    for (const label of series.labels) {
      labelled++;
      const [first] = spans.filter((span) => touches(span, label));
      if (first) {
        found++;
        delays.push(Math.max(0, first[0] - label.from) * 5);
      } else missed.set(label.kind, (missed.get(label.kind) ?? 0) + 1);
    }
  }
  const precision = alarms === 0 ? 0 : right / alarms;
  const recall = labelled === 0 ? 0 : found / labelled;
  return {
    precision,
    recall,
    f1: (2 * precision * recall) / (precision + recall || 1),
    delay: medianOf(delays),
    missed
  };
}

/** False alarms a series and month, of series with which nothing is wrong. */
export const falseAlarms = (clean: readonly LabelledSeries[], way: Way): number =>
  clean.reduce((sum, series) => sum + raisedSpans(series, way).length, 0) / clean.length;

export const labelledSet = (seed: number, count: number, isClean = false): LabelledSeries[] =>
  Array.from({ length: count }, (_, index) => labelledSeries(index, seed, isClean));
