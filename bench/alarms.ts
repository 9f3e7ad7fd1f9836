import {
  compareWith,
  encodeMemory,
  judgeSeries,
  noMemory,
  rehearse,
  warmed,
  type Comparison,
  type ConditionData,
  type RememberedSeries,
  type Rule,
  type SeriesMemory
} from '../src/lib/core/alarm';
import { alignSeries, pointsOfLength, type SummaryPoints } from '../src/lib/core/series';
import { duration, instant, type Grid, type Instant } from '../src/lib/core/time';
import { Memories } from '../src/lib/server/engine/memories';
import { randomFrom } from './band-series';
import { inTurn, type Measurement } from './measurement';

const step = duration(60_000);
const windowLength = 60;

/** Raised a few times a day, so that the state machine has something to do. */
const ruleOf = (of: number): Rule => ({
  levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80, clear: 70 } }],
  window: { needs: Math.ceil(of / 2), of },
  whenMissing: 'indeterminate',
  zone: 'UTC'
});

function columnsOf(series: number, cells: number): Float64Array[] {
  const random = randomFrom(series + cells);
  return Array.from({ length: series }, () => {
    const phase = random() * 6;
    return Float64Array.from({ length: cells }, (_, i) => 60 + 25 * Math.sin(i / 80 + phase) + 10 * (random() - 0.5));
  });
}

const gridOf = (count: number): Grid => ({ start: instant(0), step, count });
const dataOf = (columns: readonly Float64Array[]): ConditionData => ({
  grid: gridOf(columns[0]?.length ?? 0),
  columns,
  zone: 'UTC'
});

/** Judges the new cells of all series from what is remembered of them, as bytes, and gives what is to be remembered. */
function judgeNew(
  rule: Rule,
  memory: Uint8Array,
  columns: readonly Float64Array[],
  until: Instant,
  memories = new Memories()
): Uint8Array {
  const known = memories.read(1, memory);
  const [condition] = rule.levels.map((level) => level.condition);
  const comparisons = condition ? compareWith(condition, dataOf(columns)) : [];
  const next = new Map<string, RememberedSeries>();
  let of = 0;
  for (const [key, one] of known) {
    const comparison = comparisons[of] as Comparison;
    const judged = judgeSeries(rule, one.memory, [comparison], 0, (columns[of] as Float64Array).length);
    next.set(key, { judgedUntil: until, lastValueAt: until, begins: false, memory: judged.memory });
    of++;
  }
  return encodeMemory(next);
}

/** Judges the newest cell of all series from their whole windows: what is remembered of them is how they stood alone, which no window says. */
function judgeWhole(
  rule: Rule,
  states: Uint8Array,
  columns: readonly Float64Array[],
  until: Instant,
  memories: Memories
): Uint8Array {
  const comparisons = compareWith(rule.levels[0]!.condition, dataOf(columns));
  const next = new Map<string, RememberedSeries>();
  let of = 0;
  for (const [key, { memory }] of memories.read(1, states)) {
    const comparison = comparisons[of] as Comparison;
    const newest = (columns[of] as Float64Array).length - 1;
    const before = warmed(rule, [comparison], newest, memory.levels);
    const judged = judgeSeries(rule, before, [comparison], newest, newest + 1);
    next.set(key, { judgedUntil: until, lastValueAt: until, begins: false, memory: standingAlone(judged.memory) });
    of++;
  }
  return encodeMemory(next);
}

const noCells = new Uint8Array(0);
const standingAlone = ({ levels }: SeriesMemory): SeriesMemory => ({
  levels: levels.map((level) => ({ ...level, recent: noCells }))
});
const withoutWindows = (memory: Uint8Array): Uint8Array =>
  encodeMemory(
    new Map(
      [...new Memories().read(1, memory)].map(([key, one]) => [key, { ...one, memory: standingAlone(one.memory) }])
    )
  );

/** Judges so many cells of all series one after the other, as an engine that is always there does. */
function cellByCell(rule: Rule, columns: readonly Float64Array[], cells: number): Uint8Array {
  let memory = memoryAfter(rule, cellsOf(columns, 0));
  for (let i = 1; i <= cells; i++) memory = judgeNew(rule, memory, cellsOf(columns, i), instant(i * step));
  return memory;
}

const cellsOf = (columns: readonly Float64Array[], index: number): Float64Array[] =>
  columns.map((column) => column.subarray(index, index + 1));

function memoryAfter(rule: Rule, columns: readonly Float64Array[]): Uint8Array {
  const comparisons = compareWith(rule.levels[0]!.condition, dataOf(columns));
  return encodeMemory(
    new Map(
      columns.map((column, of) => [
        String(of + 1),
        {
          judgedUntil: instant(column.length * step),
          lastValueAt: null,
          begins: false,
          memory: judgeSeries(rule, noMemory(rule), [comparisons[of] as Comparison], 0, column.length).memory
        }
      ])
    )
  );
}

/** The samples of a column, one a cell. */
function pointsOf(column: Float64Array): SummaryPoints {
  const points = pointsOfLength(column.length);
  for (const [i, value] of column.entries()) {
    points.at[i] = i * step;
    points.sum[i] = points.min[i] = points.max[i] = value;
    points.count[i] = 1;
  }
  return points;
}

/** Ten thousand series due at once, K of the last 60 cells, from their samples, against judging their whole windows anew from theirs. */
export async function alarmTick(): Promise<Measurement> {
  const series = 10_000;
  const rule = ruleOf(windowLength);
  const past = columnsOf(series, windowLength + 30);
  const memory = memoryAfter(rule, past);
  const last = past[0]?.length ?? 0;
  const until = instant((last + 1) * step);
  const samples = past.map((column) => pointsOf(Float64Array.from([...column, column[0] as number])));
  /** The cells of all series from one on, as the store makes them of samples. */
  const cellsFrom = (first: number): Float64Array[] => {
    const grid: Grid = { start: instant(first * step), step, count: last + 1 - first };
    return samples.map((points) => alignSeries(points, grid, 'avg'));
  };
  /** What this engine wrote itself in the tick before. */
  const memories = new Memories();
  const states = withoutWindows(memory);
  const statesKnown = new Memories();
  const seconds = await inTurn(
    9,
    () => judgeNew(rule, memory, cellsFrom(last), until, memories),
    () => judgeWhole(rule, states, cellsFrom(last + 1 - windowLength), until, statesKnown)
  );
  return {
    name: 'alarm.tick',
    unit: 's',
    better: 'lower',
    ours: seconds.ours,
    theirs: seconds.theirs,
    alternative: 'judging whole windows anew, with how each series stood before',
    note: `${series} series due at once, K of the last ${windowLength}, from samples; with what is remembered known from the tick before, and written as bytes; goal 0.25 s`
  };
}

/** Fifty series of thirty days of minutes replayed, against cell by cell as the engine judges. */
export async function alarmRehearse(): Promise<Measurement> {
  const series = 50;
  const cells = 30 * 1440;
  const rule = ruleOf(5);
  const columns = columnsOf(series, cells);
  const data = dataOf(columns);
  const ids = columns.map((_, of) => of);
  const sample = 400;
  const seconds = await inTurn(
    5,
    () => rehearse(data, ids, rule),
    () => cellByCell(rule, columns, sample)
  );
  const small = { ...dataOf(columns.slice(0, 20).map((column) => column.subarray(0, 14 * 1440))) };
  const began = performance.now();
  rehearse(small, ids.slice(0, 20), rule);
  return {
    name: 'alarm.rehearse',
    unit: 's',
    better: 'lower',
    ours: seconds.ours,
    theirs: (seconds.theirs * cells) / sample,
    alternative: `cell by cell as the engine judges, measured over ${sample} cells of each series`,
    note: `${series} series of 30 days of minutes; redraw is 20 series of 14 days, ms, goal 100`,
    more: { redraw: performance.now() - began }
  };
}

/** Ten thousand series after twelve hours down, against cell by cell. */
export async function alarmCatchup(): Promise<Measurement> {
  const series = 10_000;
  const cells = 720;
  const rule = ruleOf(5);
  const columns = columnsOf(series, cells);
  const memory = memoryAfter(rule, cellsOf(columns, 0));
  const sample = 12;
  const seconds = await inTurn(
    3,
    () => judgeNew(rule, memory, columns, instant(cells * step)),
    () => cellByCell(rule, columns, sample)
  );
  return {
    name: 'alarm.catchup',
    unit: 's',
    better: 'lower',
    ours: seconds.ours,
    theirs: (seconds.theirs * cells) / sample,
    alternative: `a tick for each cell that was missed, measured over ${sample} of them`,
    note: `${series} series after twelve hours down, each minute judged in order`
  };
}
