import { isSelfDescribed } from '../../inventory/self-described';
import { Refusal } from '$lib/core/problem/problem';
import { isPattern } from '$lib/core/pattern';
import { cannotGive, waitsForNext } from '$lib/core/series';
import {
  asksFor,
  fixedStepOf,
  conditionMatcher,
  picksOf,
  resourceKey,
  sharedLabels,
  spokenCondition,
  type Labels,
  type Note,
  type SignalPick,
  type ResourceIds,
  type Signal
} from '$lib/core/signal';
import { combineProblem, prepare } from '$lib/core/signal/evaluate';
import { before, duration, shortestStep, type Duration, type Instant, type Range } from '$lib/core/time';
import { belonging } from '$lib/core/group';
import { conversion } from '$lib/core/units';
import type { Queryable } from '../../db/pool';
import { allGroups, type Group } from '../groups/groups';
import { metricNames } from '../../inventory/metrics';
import { seriesOfMetrics, type Series } from '../../inventory/series';
import { LinesHere } from './line-rows';
import type { SignalWork } from './work';

/** A signal with the stored series that its picks select. */
export interface Resolved {
  readonly signal: Signal;
  readonly series: Readonly<Record<string, readonly Series[]>>;
  /** How far lines are read that its rows look for. */
  readonly lines: LinesHere;
  readonly notes: readonly Note[];
}

/** What is there to pick from. */
export interface Stock {
  /** All series of some metrics and perhaps more, by resource name. */
  readonly series: readonly Series[];
  /** Read only where conditions name groups. */
  readonly groups: readonly Group[];
  readonly lines: LinesHere;
}

/** Reads what some signals may pick from, all together. */
export async function stockFor(db: Queryable, signals: readonly Signal[]): Promise<Stock> {
  const picks = signals.flatMap(picksOf);
  const asksGroups = picks.some(({ where }) => where.some(({ label }) => label === 'group'));
  const [series, groups, lines] = await Promise.all([
    seriesOfMetrics(db, [...new Set(picks.map(({ metric }) => metric))]),
    asksGroups ? allGroups(db) : [],
    LinesHere.of(db, signals)
  ]);
  return { series, groups, lines };
}

/**
 * Finds the series of every pick of a signal.
 *
 * @param stock with all that it may pick from, where several signals share it
 * @throws Refusal when a formula cannot be read, a metric is not known, or its points cannot give the statistic
 */
export async function resolveSignal(db: Queryable, signal: Signal, stock?: Stock): Promise<Resolved> {
  prepare(signal); // a formula that cannot be read is refused first
  const { series: there, groups, lines } = stock ?? (await stockFor(db, [signal]));
  const series: Record<string, readonly Series[]> = {};
  const notes: Note[] = lines.notes(signal);
  for (const pick of picksOf(signal)) {
    const path = ['rows', signal.rows.indexOf(pick)];
    const asked = there.filter(({ metric }) => asksFor(pick.metric, metric));
    const all = pick.where.some(({ label }) => label === 'group') ? withGroups(asked, groups) : asked;
    if (all.length === 0) await refuseUnknown(db, pick, path);
    const meets = conditionMatcher(pick.where);
    const { alike: found, others } = measuringAlike(
      pick,
      all.filter(({ conditionLabels }) => meets(conditionLabels))
    );
    const problem = problemOf(pick, found.length > 0 ? found : all);
    if (problem !== null)
      throw new Refusal('signal-invalid', problem.message, problem.remedy, { path: [...path, ...problem.path] });
    series[pick.name] = found;
    if (found.length === 0) notes.push({ row: pick.name, text: emptiedBy(pick, all) });
    if (others.length > 0) notes.push({ row: pick.name, text: leftOut(pick, others) });
  }
  return { signal, series, lines, notes };
}

/** The same series with the groups of their resources among the labels that conditions look at. */
export function withGroups(series: readonly Series[], groups: readonly Group[]): readonly Series[] {
  if (groups.length === 0) return series;
  const tests = groups.map(({ name, rule }) => ({ name, belongs: belonging(rule) }));
  return series.map((one) => ({
    ...one,
    conditionLabels: {
      ...one.conditionLabels,
      group: tests.filter(({ belongs }) => belongs(one.ofResource)).map(({ name }) => name)
    }
  }));
}

async function refuseUnknown(db: Queryable, { metric }: SignalPick, path: readonly (string | number)[]): Promise<void> {
  const names = await metricNames(db);
  if (names.some((name) => asksFor(metric, name))) return; // known, but nothing reports it yet
  throw new Refusal(
    'unknown-metric',
    isPattern(metric) ? `No metric matches ${metric}.` : `There is no metric named ${metric}.`,
    'Look for it in the catalogue: names are written as they stand there.',
    { path: [...path, 'metric'] }
  );
}

/**
 * The series of a pick that measure the same, and those that keys send under the same name though they measure something else, or count in another way: these are left out, so that nobody's query
 * fails for what another program sends. What providers report comes first, then what the oldest key sends.
 */
function measuringAlike(
  { statistic }: SignalPick,
  found: readonly Series[]
): { readonly alike: readonly Series[]; readonly others: readonly Series[] } {
  const isSent = ({ labels: { provider } }: Series): boolean => isSelfDescribed(provider);
  if (!found.some(isSent)) return { alike: found, others: [] };
  const first = found.reduce((best, one) => {
    if (isSent(best) !== isSent(one)) return isSent(best) ? one : best;
    return isSent(one) && one.accountId < best.accountId ? one : best;
  });
  const fits = new Map<string, boolean>();
  const isAlike = (one: Series): boolean => {
    const key = `${one.unit} ${one.kind}`;
    const known = fits.get(key);
    if (known !== undefined) return known;
    const sameMeasure = conversion(one.unit, first.unit).kind === 'unit';
    const canGive =
      cannotGive(statistic, one.shape, one.kind) === null || cannotGive(statistic, first.shape, first.kind) !== null;
    fits.set(key, sameMeasure && canGive);
    return sameMeasure && canGive;
  };
  const others = found.filter((one) => isSent(one) && !isAlike(one));
  return others.length === 0
    ? { alike: found, others }
    : { alike: found.filter((one) => !others.includes(one)), others };
}

function leftOut({ metric }: SignalPick, others: readonly Series[]): string {
  const [first] = others;
  const what = others.length === 1 ? '1 series' : `${others.length} series`;
  return `${what} that a key sends as ${metric} measures something else and is left out, first of ${first?.labels.account ?? ''} in ${first?.unit ?? ''}.`;
}

/** Why the points of some series cannot give the statistic of a pick. */
function problemOf(
  pick: SignalPick,
  series: readonly Series[]
): { message: string; remedy: string; path: (string | number)[] } | null {
  for (const { shape, kind } of series) {
    const why = cannotGive(pick.statistic, shape, kind);
    if (why !== null)
      return { message: why, remedy: 'Ask for avg, min, max, sum, count or last.', path: ['statistic'] };
  }
  const combining = combineProblem(pick);
  return combining === null
    ? null
    : { message: combining, remedy: 'Change how the row is combined.', path: ['combine', 'statistic'] };
}

/** Which of a pick's conditions left nothing. */
function emptiedBy({ metric, where }: SignalPick, all: readonly Series[]): string {
  let left = all;
  for (const condition of where) {
    const meets = conditionMatcher([condition]);
    const next = left.filter(({ conditionLabels }) => meets(conditionLabels));
    if (next.length === 0)
      return left.length === all.length
        ? `None of the ${all.length} series of ${metric} is there whose ${spokenCondition(condition)}.`
        : `Of the ${left.length} series that meet the conditions before, none is there whose ${spokenCondition(condition)}.`;
    left = next;
  }
  return `Nothing reports ${metric} yet.`;
}

/**
 * What the store's thread needs to work a resolved signal out.
 *
 * @param complete up to where the cells of single series are complete; those of all by the slowest delay when that is not known
 */
export function workOf(
  { signal, series, lines, notes }: Resolved,
  now: Instant,
  complete?: ReadonlyMap<number, Instant>
): SignalWork {
  const sources = Object.fromEntries(
    Object.entries(series).map(([row, found]) => [
      row,
      found.map(({ id, labels, kind, unit, samplingMs, stamp }) => ({
        id,
        labels,
        kind,
        unit,
        samplingMs,
        stamp,
        ...(complete ? { completeUntil: complete.get(id) ?? 0 } : {})
      }))
    ])
  );
  const slowest = picksOf(signal).reduce(
    (most, { name, statistic }) =>
      (series[name] ?? []).reduce(
        (longest, { kind, delayMs, samplingMs, stamp }) =>
          Math.max(longest, delayMs + waitsForNext(statistic, kind, samplingMs, stamp)),
        most
      ),
    0
  );
  const linesUntil = lines.until(signal, now);
  let completeUntil: Instant =
    complete || picksOf(signal).length === 0 ? (0 as Instant) : before(now, duration(slowest));
  for (const until of [...(complete?.values() ?? []), ...Object.values(linesUntil)])
    if (until > completeUntil) completeUntil = until;
  return { signal, sources, notes, completeUntil, linesUntil };
}

export const everySeries = (series: Resolved['series']): Series[] => Object.values(series).flat();

/** The resources of what several signals picked. */
export const resourcesOf = (all: readonly Resolved[]): ResourceIds =>
  new Map(
    all.flatMap(({ series }) =>
      everySeries(series).map(({ labels, resourceId }) => [resourceKey(labels.account, labels.resource), resourceId])
    )
  );

/**
 * The step to work a signal out with: its own, or for `auto` one that follows the range and is not shorter than the sampling; the next readable one when a
 * picture has no room for so many cells.
 *
 * @param cells that a picture has room for
 */
export function stepFor({ signal, series }: Resolved, span: Range, cells: number | undefined): Duration {
  const fixed = fixedStepOf(signal);
  const room = cells === undefined && fixed !== null ? 0 : shortestStep(span, cells ?? usualCells);
  if (fixed !== null) return duration(Math.max(fixed, room));
  const sampling = everySeries(series).reduce((longest, { samplingMs }) => Math.max(longest, samplingMs), 60_000);
  return duration(Math.max(room, shortestStep({ from: 0, to: sampling } as Range, 1)));
}

/** Cells of an automatic step when nobody says how much room there is. */
const usualCells = 400;

/**
 * Refuses columns that cannot be told apart where each is to have a state or numbers of its own.
 *
 * @throws Refusal naming the labels that two of them share
 */
export function refuseTwins(columns: readonly { readonly labels: Labels }[]): void {
  const shared = sharedLabels(columns);
  if (shared === null) return;
  const told = Object.entries(shared).flatMap(([label, value]) => (value === '' ? [] : [`${label} ${value}`]));
  throw new Refusal(
    'signal-invalid',
    `Several of its series have the same labels${told.length > 0 ? `, such as ${told.join(', ')}` : ''}.`,
    'Pick one metric in each row instead of a pattern, or combine the row by labels.'
  );
}
