import {
  compareWith,
  decodeMemory,
  encodeMemory,
  judgeSeries,
  standingOf,
  stepOfAlarm,
  warmed,
  type Comparison,
  type RememberedSeries,
  type Rule,
  type Severity
} from '$lib/core/alarm';
import type { Column } from '$lib/core/signal';
import { after, before, cellStart, range, times, type Duration, type Instant } from '$lib/core/time';
import type { Alarm } from '../alarms/alarms';
import { lookAgainAfter, type TakenAlarm } from '../alarms/alarm-work';
import { versionOfAlarm } from '../alarms/versions';
import { openIncidentsOfAlarm, type KnownIncident } from '../incidents/incidents';
import { columnKey, ruleNeeds } from './condition-data';
import { addEvidence, noEvidence } from './evidence';
import { asRemembered, planner, type Planner } from './plan';
import type { ReadCells, SourceContext, WatchedSource } from './source';
import { watchedSource } from './watched-source';
import type { JudgedAlarm, JudgedSeries } from './judged';

/** Cells of all series together that are computed at once: after a long stop, what is due is judged in pieces. */
export const mostCells = 5_000_000;

/**
 * Judges, for each series of an alarm, every cell that has become complete since the last time, in order. Cells that were judged are not judged again: what is remembered of them is enough to go on. Only a series that is new, whose
 * definition was changed, or that was not judged for two days begins with the window before.
 */
export async function judgeAlarm(context: SourceContext, alarm: Alarm, taken: TakenAlarm): Promise<JudgedAlarm> {
  const source = await watchedSource(context, alarm, stepOfAlarm(alarm.definition), 'present');
  const open = await openIncidentsOfAlarm(context.db, alarm.id);
  const levelsBefore = await levelsOf(context, alarm, taken);
  const read = (bytes: Uint8Array) => context.memories.read(alarm.id, bytes);
  const judged = await judgeSource(alarm, source, { ...taken, open, levelsBefore }, context.now, read);
  return { ...judged, series: judged.series.map((one) => withArrivals(one, context.cameAt)) };
}

/** Adds to the evidence of a stored series when its samples came. */
function withArrivals(series: JudgedSeries, cameAt: SourceContext['cameAt']): JudgedSeries {
  const { changes, watched } = series;
  if (watched.seriesId === null || changes.length === 0) return series;
  const id = watched.seriesId;
  return {
    ...series,
    changes: changes.map(({ evidence, ...change }) => {
      const { start, step, values } = evidence;
      const arrived = cameAt(id, { start: start as Instant, step: step as Duration, count: values.length });
      return { ...change, evidence: arrived.every((at) => at === null) ? evidence : { ...evidence, arrived } };
    })
  };
}

/** What is known of an alarm before its new cells are judged. */
export interface Before extends Pick<TakenAlarm, 'version' | 'memory'> {
  readonly open: readonly KnownIncident[];
  /** The severities of the definition that the memory belongs to. */
  readonly levelsBefore: readonly Severity[];
}

/**
 * Judges the new cells of what an alarm watches, see {@link judgeAlarm}.
 *
 * @param read reads what is remembered
 */
export async function judgeSource(
  alarm: Pick<Alarm, 'definition' | 'version'>,
  source: WatchedSource,
  { version, memory, open, levelsBefore }: Before,
  now: Instant,
  read: (bytes: Uint8Array) => ReadonlyMap<string, RememberedSeries> = decodeMemory
): Promise<JudgedAlarm> {
  const { rule } = alarm.definition;
  const step = stepOfAlarm(alarm.definition);
  const stored = memory === null ? new Map<string, RememberedSeries>() : read(memory);
  const isSameVersion = version === alarm.version;
  const known = isSameVersion
    ? stored
    : new Map([...stored].map(([key, one]) => [key, asRemembered(rule, one, levelsBefore)]));
  const newFrom = source.isAppearing ? newSince(source.latest, step, known) : null;
  const plan = planner({ rule, step, now, latest: source.latest, newFrom, known, open, isSameVersion });
  const due =
    source.series &&
    [...source.series].filter(([key, one]) => plan(key, one.complete, one.gapsFinal) !== null).map(([key]) => key);
  const remembered = new Map(known);
  const gone = new Set<string>();
  const forget = (watched: { has(key: string): boolean }) => {
    for (const key of [...known.keys(), ...open.map((incident) => incident.key)]) if (!watched.has(key)) gone.add(key);
    for (const key of gone) remembered.delete(key);
  };
  if (source.series) forget(source.series);
  let series: JudgedSeries[] = [];
  let unit = '1';
  let caughtUp = true;
  if (source.latest > 0 && due?.length !== 0) {
    const keys = due ?? [...known.keys()];
    const plans = keys.flatMap((key) => {
      const one = source.series?.get(key);
      return plan(key, one?.complete ?? source.latest, one?.gapsFinal ?? null) ?? [];
    });
    const first = plans.reduce<Instant>(
      (earliest, { from }) => (from < earliest ? from : earliest),
      newFrom ?? before(source.latest, step)
    );
    const { lead, begin, peers } = ruleNeeds(rule, step);
    const only = due && !peers ? new Set(due) : null;
    const count = Math.max(1, only?.size ?? source.inputs);
    const room = times(Math.max(1, Math.floor(mostCells / count)), step);
    const until = Math.min(source.latest, after(first, room)) as Instant;
    caughtUp = until === source.latest;
    const planUntil: Planner = (key, complete, final) => plan(key, Math.min(complete, until), final);
    const lastValueAt = (key: string) => known.get(key)?.lastValueAt ?? null;
    const cellsWith = (cells: number) =>
      source.read(range(before(first, times(cells, step)), until), only, lastValueAt);
    const mayBegin = known.size === 0 || plans.some(({ begins }) => begins);
    let cells = await cellsWith(lead + (mayBegin ? begin : 0));
    const begins = (column: Column) =>
      planUntil(columnKey(column), column.completeUntil, source.gapsFinal(column))?.begins === true;
    if (!mayBegin && cells.columns.some(begins)) cells = await cellsWith(lead + begin);
    if (!source.series) forget(new Set(cells.columns.map(columnKey)));
    unit = cells.unit;
    series = judged(rule, step, source, cells, planUntil, known, remembered);
    await addEvidence(source, alarm, step, cells, series, lead + begin, lastValueAt);
  }
  const nextEnd = nextEndOf(remembered, step, now);
  const dueAt = caughtUp ? (nextEnd > now ? nextEnd : after(now, lookAgainAfter)) : now;
  return {
    unit,
    series,
    gone: [...gone],
    open,
    remembered,
    work: { version: alarm.version, memory: encodeMemory(remembered), dueAt, nextEnd }
  };
}

async function levelsOf({ db }: SourceContext, alarm: Alarm, { version }: TakenAlarm): Promise<readonly Severity[]> {
  const rule =
    version === alarm.version || version === 0
      ? alarm.definition.rule
      : ((await versionOfAlarm(db, alarm.id, version))?.definition.rule ?? alarm.definition.rule);
  return rule.levels.map(({ severity }) => severity);
}

/** Judges what is due of each column; what is to be remembered goes into `remembered`. */
function judged(
  rule: Rule,
  step: Duration,
  source: WatchedSource,
  { grid, columns, data }: ReadCells,
  plan: Planner,
  known: ReadonlyMap<string, RememberedSeries>,
  remembered: Map<string, RememberedSeries>
): JudgedSeries[] {
  const comparisons = rule.levels.map(({ condition }, level) =>
    compareWith(condition, data[level] as ReadCells['data'][number])
  );
  const indexOf = (at: Instant) => Math.round((at - grid.start) / step);
  const ends = endsOf(rule, step, source, { grid, columns }, plan);
  return columns.flatMap((column, of): JudgedSeries[] => {
    const key = columnKey(column);
    const planned = plan(key, column.completeUntil, source.gapsFinal(column));
    if (planned === null) return [];
    const own = comparisons.map((all) => all[of] as Comparison);
    const before = known.get(key);
    const to = ends[of] as number;
    const begin = Math.max(0, indexOf(planned.from));
    const from = before === undefined && source.isAppearing ? firstCounted(column.values, begin, to) : begin;
    if (from >= to) return [];
    const start = planned.begins || before === undefined ? warmed(rule, own, from, planned.levels) : before.memory;
    const standing = standingOf(start, rule);
    const { memory, transitions } = judgeSeries(rule, start, own, from, to);
    // Of a new series, what lies before its first judged cell counts as well.
    const earliest = before === undefined ? 0 : from;
    let last = to - 1;
    while (last >= earliest && Number.isNaN(column.values[last])) last--;
    const lastValueAt = last >= earliest ? cellStart(grid, last) : (data[0]?.lastValueAt?.[of] ?? null);
    const judgedUntil = cellStart(grid, to);
    remembered.set(key, { judgedUntil, lastValueAt, begins: false, memory });
    return [
      {
        watched: source.watched(column),
        // Also one that history, or another definition, has found to stand otherwise.
        isNew: before === undefined || standingOf(before.memory, rule).state !== standing.state,
        before: standing,
        after: standingOf(memory, rule),
        changes: transitions.map((transition) => ({
          at: cellStart(grid, transition.index + 1),
          transition,
          evidence: noEvidence
        })),
        peak: memory.levels.findLast(({ held }) => held)?.peak ?? null,
        judgedFrom: cellStart(grid, from),
        judgedUntil
      }
    ];
  });
}

/** Cells before the newest in which a series that was not there is looked for. */
const newCells = 10;

/** From when on series are judged that were not there before: from where others were judged last, and some cells at least. */
function newSince(latest: Instant, step: Duration, known: ReadonlyMap<string, RememberedSeries>): Instant {
  let since = before(latest, times(newCells, step));
  for (const { judgedUntil } of known.values()) if (judgedUntil < since) since = judgedUntil;
  return (Math.max(0, Math.floor(since / step)) * step) as Instant;
}

/** The first cell that counted something; the last one where none did. */
function firstCounted(values: Float64Array, from: number, to: number): number {
  for (let cell = from; cell < to - 1; cell++) if ((values[cell] as number) > 0) return cell;
  return Math.max(from, to - 1);
}

/**
 * Up to which cell each column is judged. A gap that may still be filled waits, though newer samples are there; a series that is compared with its peers waits for the slowest of them.
 */
function endsOf(
  rule: Rule,
  step: Duration,
  source: WatchedSource,
  { grid, columns }: Pick<ReadCells, 'grid' | 'columns'>,
  plan: Planner
): number[] {
  const indexOf = (at: number) => Math.floor((at - grid.start) / step);
  const ends = columns.map((column) => {
    const final = source.gapsFinal(column);
    const planned = plan(columnKey(column), column.completeUntil, final);
    if (planned === null) return indexOf(Math.min(column.completeUntil, source.latest));
    const to = indexOf(planned.to);
    if (final === null) return to;
    let end = Math.max(0, indexOf(planned.from), indexOf(final));
    while (end < to && !Number.isNaN(column.values[end])) end++;
    return Math.min(end, to);
  });
  if (!ruleNeeds(rule, step).peers) return ends;
  const slowest = ends.reduce((least, end) => Math.min(least, end), Infinity);
  return ends.map((end) => Math.min(end, slowest));
}

/** The earliest end of a cell that is not judged; the next look when nothing is watched. */
function nextEndOf(remembered: ReadonlyMap<string, RememberedSeries>, step: Duration, now: Instant): Instant {
  let next = Infinity;
  for (const { judgedUntil } of remembered.values()) if (judgedUntil + step < next) next = judgedUntil + step;
  return (Number.isFinite(next) ? next : now) as Instant;
}
