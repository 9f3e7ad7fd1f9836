import {
  compareWith,
  graver,
  judgeSeries,
  standingOf,
  stepOfAlarm,
  warmed,
  windowCells,
  worseOf,
  type Comparison,
  type Peak,
  type RememberedSeries,
  type Rule,
  type Severity,
  type Transition
} from '$lib/core/alarm';
import type { Column } from '$lib/core/signal';
import { before, cellStart, day, hour, range, times, type Duration, type Instant, type Range } from '$lib/core/time';
import { isRefused } from '$lib/core/problem/problem';
import { memoryOfAlarm, wakeAlarm } from '../alarms/alarm-work';
import { historyToJudge, noteHistoryJudged, type Alarm, type HistoryToJudge, type Watched } from '../alarms/alarms';
import { incidentsOfAlarmIn, openIncidentsOfAlarm, type KnownIncident } from '../incidents/incidents';
import { recordIncidents, type IncidentDraft, type NewChange } from '../incidents/record';
import { gapsWithin } from '../intake/pull/gaps';
import { picksOf } from '$lib/core/signal';
import { resolveSignal } from '../query/signals/resolve';
import { seriesById } from './arrivals';
import { bandHistory } from './bands';
import { columnKey, ruleNeeds } from './condition-data';
import { evidenceOf } from './evidence';
import { mostCells } from './judge-alarm';
import type { ReadCells, SourceContext } from './source';
import { watchedSource } from './watched-source';

/** A series that clears at another threshold than it is raised at may have been raised long before a piece begins: it is looked back so far. */
const runUp = times(6, hour);

/** History is judged without what follows it when that takes longer. */
const longestWait = hour;

/**
 * Judges one more piece of the history that alarms want judged, newest first, as soon as all of it has been fetched. What was raised then becomes an incident that was judged
 * afterwards: nobody is notified.
 *
 * @param onFault hears of an alarm whose history could not be judged; the others go on
 * @param piece of history that is judged at once
 * @returns the alarm of which something was judged; null when there was nothing to judge
 */
export async function judgeHistory(
  context: SourceContext,
  onFault: (alarmId: number, error: unknown) => void,
  piece: Duration = day
): Promise<{ readonly alarmId: number; readonly found: boolean } | null> {
  for (const wanted of await historyToJudge(context.db)) {
    try {
      const found = await judgePiece(context, wanted, piece);
      if (found !== null) return { alarmId: wanted.alarm.id, found };
    } catch (error) {
      if (isRefused(error)) continue; // its metrics are not known yet, for instance: the alarm itself says what is wrong
      // The history of the other alarms does not wait for this one.
      onFault(wanted.alarm.id, error);
    }
  }
  return null;
}

/** @returns whether an incident was found; null when the piece cannot be judged yet */
async function judgePiece(
  context: SourceContext,
  { alarm, wantedFrom, judgedFrom, isNewest }: HistoryToJudge,
  piece: Duration
): Promise<boolean | null> {
  const { db } = context;
  const { rule } = alarm.definition;
  const step = stepOfAlarm(alarm.definition);
  const source = await watchedSource({ ...context, anew: true }, alarm, step, 'past');
  const count = source.inputs;
  if (count === 0) return null;
  const room = times(Math.max(1, Math.floor(mostCells / count)), step);
  const live = await judgedLive(context, alarm);
  // The engine goes first, so that what is raised where the history ends and still holds is one incident.
  const mayWait = alarm.definition.enabled && context.now - judgedFrom <= longestWait;
  if (live === null && mayWait) return null;
  const span = range(Math.max(wantedFrom, before(judgedFrom, piece), before(judgedFrom, room)) as Instant, judgedFrom);
  const needs = ruleNeeds(rule, step);
  const lookBack = isSticky(rule) ? Math.ceil(runUp / step) : 0;
  const lead = needs.lead + needs.begin + lookBack;
  const withLead = range(before(span.from, times(lead, step)), span.to);
  const looksBack = needs.bands ? range(before(span.from, bandHistory), span.to) : withLead;
  if (!(await isFetched(context, alarm, looksBack))) return null;
  const cells = await source.read(withLead, null, () => null);
  const levels = rule.levels.map(({ condition }, level) =>
    compareWith(condition, cells.data[level] as ReadCells['data'][number])
  );
  const known = await incidentsOfAlarmIn(db, alarm.id, range(span.from, (span.to + step) as Instant));
  const drafts: IncidentDraft[] = [];
  const changes: NewChange[] = [];
  /** What is raised where the history ends, which the engine did not know when it began: it goes on with it. */
  const still: { drafts: IncidentDraft[]; changes: NewChange[] } = { drafts: [], changes: [] };
  const openKeys = new Set((await openIncidentsOfAlarm(db, alarm.id)).map(({ key }) => key));
  for (const [of, column] of cells.columns.entries()) {
    if (isTooYoung(cells, of)) continue;
    const key = columnKey(column);
    const judgedUntil = live?.get(key)?.judgedUntil;
    const endedAt = source.endedAt(column);
    // What the engine has not judged yet, since its samples come late, it judges itself; of what has ended nothing follows.
    const ends = [span.to, judgedUntil ?? span.to, endedAt === null ? span.to : wholeUntil(endedAt, step)];
    const own = range(span.from, Math.max(span.from, Math.min(...ends)) as Instant);
    if (own.from === own.to) continue;
    const comparisons = levels.map((all) => all[of] as Comparison);
    const periods = periodsOfColumn(rule, comparisons, column, cells, own, lookBack);
    const isOpen = periods.at(-1)?.closing === null && endedAt === null && alarm.definition.enabled;
    // A series that is silent is only known since its history came: whether it still holds, the engine says first.
    if (isOpen && judgedUntil === undefined && mayWait) return null;
    const isLast = isNewest || (judgedUntil !== undefined && judgedUntil < span.to);
    const isKnown = openKeys.has(key) || known.some((one) => one.key === key && one.openedAt >= own.to - step);
    const goesOn =
      isOpen && isLast && !isKnown && judgedUntil !== undefined && mayNotKnow(rule, judgedUntil - own.to, step);
    const over = goesOn ? periods.slice(0, -1) : periods;
    const drafted = { alarm, watched: source.watched(column), own: comparisons, cells, span: own, known };
    draft(drafted, over, drafts, changes);
    if (goesOn) draft(drafted, periods.slice(-1), still.drafts, still.changes);
  }
  await db.transaction(async (within) => {
    if (!(await noteHistoryJudged(within, alarm.id, span))) return;
    await recordIncidents(within, alarm.id, drafts, changes, context.now, true);
    await recordIncidents(within, alarm.id, still.drafts.map(asOpened), still.changes, context.now);
    if (still.drafts.length > 0) await wakeAlarm(within, alarm.id);
  });
  return drafts.length + still.drafts.length > 0;
}

/** What the engine remembers of the series of an alarm; null before it has judged it. */
async function judgedLive(
  { db, memories }: SourceContext,
  { id }: Alarm
): Promise<ReadonlyMap<string, RememberedSeries> | null> {
  const bytes = await memoryOfAlarm(db, id);
  return bytes && memories.read(id, bytes);
}

const wholeUntil = (at: number, step: Duration): number => Math.floor(at / step) * step;

/** Whether the engine, which has judged so long since, could not know that a series was raised before: its windows reach back farther, or it clears at another threshold. */
const mayNotKnow = (rule: Rule, judgedFor: number, step: Duration): boolean =>
  isSticky(rule) || judgedFor < windowCells(rule) * step;

/** With less history than a week, an anomaly band does not know how weekdays and weekends differ: what it would have found then is not taken for incidents afterwards. */
const leastBandDays = 7;
const isTooYoung = ({ data }: ReadCells, of: number): boolean =>
  data.some(({ bands }) => bands !== undefined && (bands[of]?.learned?.days ?? 0) < leastBandDays);

/** An incident that goes on, of which people hear now. */
const asOpened = (found: IncidentDraft): IncidentDraft => ({
  ...found,
  closedAt: null,
  events: [{ kind: 'opened', at: found.openedAt, severity: found.severity, value: null, peak: found.peak }]
});

/** Whether what is raised may stay so without meeting the condition. */
const isSticky = ({ levels, clearing }: Rule): boolean =>
  clearing !== undefined ||
  levels.some(({ condition }) => 'clear' in condition || 'clearLow' in condition || 'clearHigh' in condition);

/** Whether all that some series had in a span has been fetched. */
async function isFetched({ db }: SourceContext, { definition }: Alarm, span: Range): Promise<boolean> {
  const { signal, combines } = definition;
  const signals = signal
    ? [signal]
    : (combines?.parts ?? []).flatMap((part) => ('signal' in part ? [part.signal] : []));
  const missing = await gapsWithin(db, span);
  for (const one of signals) {
    if (picksOf(one).length === 0) continue;
    const series = [...seriesById(await resolveSignal(db, one)).values()];
    const isMissing = series.some(({ accountId, conditionLabels }) =>
      missing.some((gap) => gap.accountId === accountId && gap.service === conditionLabels['service'])
    );
    if (isMissing) return false;
  }
  return true;
}

/** One raised period of one series within a piece. */
interface Period {
  /** Null when it was raised before the piece begins. */
  readonly opening: Transition | null;
  readonly between: readonly Transition[];
  readonly closing: Transition | null;
  readonly severity: Severity;
  readonly gravest: Severity;
  readonly peak: Peak | null;
}

/** The raised periods of a column whose deciding cells lie in the span. */
function periodsOfColumn(
  rule: Rule,
  own: readonly Comparison[],
  { values }: Column,
  { grid }: ReadCells,
  span: Range,
  lookBack: number
): Period[] {
  const first = Math.round((span.from - grid.start) / grid.step);
  const end = Math.min(values.length, Math.round((span.to - grid.start) / grid.step));
  const begin = Math.max(0, first - lookBack);
  const start = judgeSeries(rule, warmed(rule, own, begin), own, begin, first).memory;
  const { memory, transitions } = judgeSeries(rule, start, own, first, end);
  const periods: Period[] = [];
  type Open = { -readonly [Key in keyof Period]: Period[Key] } & { between: Transition[] };
  const opened = (opening: Transition | null, severity: Severity): Open => ({
    opening,
    between: [],
    closing: null,
    severity,
    gravest: severity,
    peak: opening?.peak ?? null
  });
  const { severity: before } = standingOf(start, rule);
  let open: Open | null = before === null ? null : opened(null, before);
  for (const transition of transitions) {
    const { to, peak } = transition;
    if (to.severity === null) {
      if (open === null) continue;
      periods.push({ ...open, closing: transition, peak: worseOf(open.peak, peak) });
      open = null;
    } else if (open === null) open = opened(transition, to.severity);
    else {
      open.between.push(transition);
      open.severity = to.severity;
      open.gravest = graver(open.gravest, to.severity) ?? open.gravest;
      open.peak = worseOf(open.peak, peak);
    }
  }
  const last = memory.levels.findLast(({ held }) => held)?.peak ?? null;
  if (open !== null) periods.push({ ...open, peak: worseOf(open.peak, last) });
  return periods;
}

/** What the incidents of one series are drafted from. */
interface Drafted {
  readonly alarm: Alarm;
  readonly watched: Watched;
  /** The comparisons of its levels. */
  readonly own: readonly Comparison[];
  readonly cells: ReadCells;
  /** What of it is judged. */
  readonly span: Range;
  readonly known: readonly KnownIncident[];
}

/**
 * Adds the periods of one series. One that touches an incident that is known, found in the piece after this one or opened by the engine itself, is the beginning of that incident. Where data are
 * missing just at the border of two pieces, it stays apart.
 */
function draft(
  { alarm, watched, own, cells, span, known }: Drafted,
  periods: readonly Period[],
  drafts: IncidentDraft[],
  changes: NewChange[]
): void {
  const { grid, unit } = cells;
  const at = ({ index }: Transition) => cellStart(grid, index + 1);
  for (const { opening, between, closing, severity, gravest, peak } of periods) {
    const openedAt = opening ? at(opening) : ((span.from + grid.step) as Instant);
    const closedAt = closing ? at(closing) : span.to;
    // What is raised in the last cell of this piece and in the first of the next is one.
    const until = closing ? closedAt : closedAt + grid.step;
    const next = known.find(
      (one) => one.key === watched.key && one.openedAt <= until && (one.closedAt === null || one.closedAt >= openedAt)
    );
    const value = peak && Number.isFinite(peak.value) ? peak.value : null;
    const peaks = [value, next?.peak ?? null].flatMap((one) => one ?? []);
    const isLow = own.some(({ high }) => high === Infinity);
    const worst = peaks.length === 0 ? null : isLow ? Math.min(...peaks) : Math.max(...peaks);
    drafts.push({
      id: next?.id ?? null,
      watched,
      unit: next?.unit ?? unit,
      openedAt: next && next.openedAt < openedAt ? next.openedAt : openedAt,
      closedAt: next ? next.closedAt : closedAt,
      severity: next?.severity ?? severity,
      gravest: next ? (graver(next.gravest, gravest) ?? gravest) : gravest,
      peak: worst,
      events: []
    });
    const told = [...(opening ? [opening] : []), ...between, ...(closing ? [closing] : [])];
    for (const transition of told)
      changes.push({
        key: watched.key,
        draft: drafts.length - 1,
        at: at(transition),
        from: transition.from.state,
        to: transition.to.state,
        fromSeverity: transition.from.severity,
        toSeverity: transition.to.severity,
        evidence: evidenceOf(alarm, grid.step, cells, own[transition.level] ?? null, { at: at(transition), transition })
      });
  }
}
