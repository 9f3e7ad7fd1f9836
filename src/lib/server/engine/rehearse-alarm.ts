import { setImmediate } from 'node:timers/promises';
import {
  proposeLevels,
  proposeLimit,
  proposeWindow,
  rehearsalFigures,
  rehearse,
  stepOfAlarm,
  type AlarmDefinition,
  type Proposal,
  type RaisedPeriod,
  type RehearsalAnswer,
  type Rehearsed,
  type RehearsedValues,
  type Rule
} from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { before, day, range, times, type Instant } from '$lib/core/time';
import { knownIncidents } from '../incidents/incidents';
import { columnKey, ruleNeeds } from './condition-data';
import type { ReadCells, SourceContext } from './source';
import { watchedSource } from './watched-source';

/** How an alarm is rehearsed. */
export interface RehearsalAsked {
  readonly alarm: AlarmDefinition;
  /** Days of history, up to now. */
  readonly days: number;
  /** The zone in which hours of messages are counted. */
  readonly zone: string;
  /** The alarm that it replaces, whose incidents it should have found; null for a new one. */
  readonly id: number | null;
  /** Whether to look for a better limit and window as well. */
  readonly propose: boolean;
}

/** Cells that are rehearsed at once: 50 series of 30 days of minutes, and a few more. */
const mostCells = 2_500_000;
/** Days of history times series that are rehearsed at once where each needs an anomaly band of its own. */
const mostBands = 600;
/** A better limit and window are looked for in at most so many cells: each try replays all of them. */
const mostProposed = 400_000;
/** Periods that are listed; all are counted. */
const mostPeriods = 500;
/** An alarm is calm when it is raised at most so often a week. */
const calmPerWeek = 2;

/**
 * Replays an alarm over stored history, by what the engine judges with.
 *
 * @throws Refusal when its signal cannot be evaluated, or `too-many-cells`
 */
export async function rehearseAlarm(context: SourceContext, asked: RehearsalAsked): Promise<RehearsalAnswer> {
  const began = performance.now();
  const { alarm, days, zone, id, propose } = asked;
  const { rule } = alarm;
  const step = stepOfAlarm(alarm);
  const source = await watchedSource(context, { definition: alarm }, step, 'past');
  const to = (Math.floor(Math.max(source.latest, 0) / step) * step) as Instant;
  const span = range(before(to, times(days, day)), to);
  const cellsOfSeries = (span.to - span.from) / step;
  const { lead, begin, bands } = ruleNeeds(rule, step);
  refuseTooMuch(source.inputs, cellsOfSeries, bands, days);
  const cells = await source.read(range(before(span.from, times(lead + begin, step)), span.to), null, () => null);
  const first = Math.round((span.from - cells.grid.start) / step);
  const seriesIds = cells.columns.map((_, index) => index);
  const { periods: found, windows } = rehearse(cells.data, seriesIds, rule, first);
  const endedAt = cells.columns.map((column) => source.endedAt(column));
  const periods = found.flatMap((period) => untilEnded(period, endedAt[period.seriesId] ?? null));
  const known = await knownIncidents(
    context.db,
    id,
    cells.columns.flatMap(({ seriesId }) => seriesId ?? []),
    span.from
  );
  const [data] = cells.data;
  const proposals =
    propose && data && cellsOfSeries * seriesIds.length <= mostProposed
      ? await proposalsFor(rule, { data, seriesIds, first, span, known })
      : [];
  return {
    ...{ from: span.from, to: span.to, step, unit: cells.unit, windows, proposals },
    seen: seenIn(cells, first),
    series: cells.columns.map((column) => ({ key: columnKey(column), labels: column.labels })),
    figures: rehearsalFigures(periods, span, zone, known),
    periods: periods.slice(-mostPeriods).map(({ seriesId, from, to: until, severity, steps, peak }) => ({
      ...{ series: seriesId, from, to: until, severity, steps },
      peak: Number.isFinite(peak) ? peak : null
    })),
    milliseconds: performance.now() - began
  };
}

/** A period of a series whose resource has ended since ends with it; nothing is raised after it. */
function untilEnded(period: RaisedPeriod, endedAt: Instant | null): RaisedPeriod[] {
  if (endedAt === null || (period.to !== null && period.to <= endedAt)) return [period];
  return period.from < endedAt ? [{ ...period, to: endedAt }] : [];
}

/** What the cells from `first` on were like. */
function seenIn({ columns, data }: ReadCells, first: number): RehearsedValues {
  let [smallest, largest, newest] = [Infinity, -Infinity, -Infinity];
  let [cells, filled, whole] = [0, 0, 0];
  for (const { values, newest: sample } of columns) {
    newest = Math.max(newest, sample ?? -Infinity);
    let began = false;
    for (let i = first; i < values.length; i++) {
      const value = values[i] as number;
      if (value === value) {
        began = true;
        filled++;
        if (value < smallest) smallest = value;
        if (value > largest) largest = value;
        if (Number.isInteger(value)) whole++;
      }
      if (began) cells++;
    }
  }
  const bands = data.flatMap((level) => level.bands ?? []).map((band) => band?.learned ?? noHistory);
  return {
    smallest: filled === 0 ? null : smallest,
    largest: filled === 0 ? null : largest,
    isWhole: filled === whole,
    filled: cells === 0 ? null : filled / cells,
    newest: newest === -Infinity ? null : (newest as Instant),
    learned: bands.length === 0 ? null : bands.reduce((least, one) => (one.days < least.days ? one : least))
  };
}

const noHistory = { days: 0, season: 'none' } as const;

function refuseTooMuch(series: number, cellsOfSeries: number, bands: boolean, days: number): void {
  const most = bands ? Math.min(mostCells, (mostBands * cellsOfSeries) / days) : mostCells;
  const cells = Math.round(cellsOfSeries * series);
  if (cells <= most) return;
  const fitting = Math.floor((most * days) / cells);
  throw new Refusal(
    'too-many-cells',
    `Rehearsing ${series} series over ${days === 1 ? 'a day' : `${days} days`} would take ${cells.toLocaleString('en')} cells.`,
    fitting >= 1
      ? `Choose ${fitting === 1 ? 'a day' : `${fitting} days or fewer`}, longer windows, or fewer series.`
      : 'Choose longer windows or fewer series.',
    { path: ['days'] }
  );
}

/** Proposals, tried one after the other: what else waits for the thread gets its turn in between. */
async function proposalsFor(rule: Rule, rehearsed: Rehearsed): Promise<Proposal[]> {
  const found: Proposal[] = [];
  const searches = [
    proposeLimit(rule, rehearsed, calmPerWeek),
    proposeWindow(rule, rehearsed),
    proposeLevels(rule, rehearsed)
  ];
  for (const tries of searches) {
    let next = tries.next();
    for (; !next.done; next = tries.next()) await setImmediate();
    if (next.value) found.push(next.value);
  }
  return found;
}
