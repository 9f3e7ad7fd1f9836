import type { Rule } from '$lib/core/alarm';
import { isPick, linesOf, type Column } from '$lib/core/signal';
import type { Duration, Instant } from '$lib/core/time';
import type { Alarm, Watched } from '../alarms/alarms';
import type { Series } from '../inventory/series';
import { arrivalsOf, type ArrivedUntil } from '../query/signals/arrivals';
import { everySeries, refuseTwins, resolveSignal, type Resolved } from '../query/signals/resolve';
import { latestOf, seriesById, stillWatched } from './arrivals';
import { combinedSource } from './combined-source';
import { columnKey, conditionData, evaluated, ruleNeeds, type ReadingContext } from './condition-data';
import type { SourceContext, WatchedSource } from './source';

/**
 * What an alarm watches.
 *
 * @param which what there is at present, or also what ended since, for what is judged of the past
 * @throws Refusal when its signal cannot be evaluated
 */
export async function watchedSource(
  context: SourceContext,
  alarm: Pick<Alarm, 'definition'>,
  step: Duration,
  which: 'present' | 'past'
): Promise<WatchedSource> {
  const until = which === 'present' ? context.now : null;
  const { signal, combines } = alarm.definition;
  if (signal) {
    const resolved = await stillWatched(context.db, await resolveSignal(context.db, signal), until);
    const arrived = await arrivalsOf(context.arrivals, resolved, step);
    return signalSource(context, alarm.definition.rule, resolved, arrived, step);
  }
  if (combines) return combinedSource(context, combines, alarm.definition.rule.zone, step, until);
  throw new Error(`watchedSource: “${alarm.definition.name}” watches nothing`);
}

/**
 * What an alarm on a signal watches.
 *
 * @param arrived up to where the cells of each stored series are complete
 */
export function signalSource(
  context: ReadingContext & Pick<SourceContext, 'bandsOf'>,
  rule: Rule,
  resolved: Resolved,
  arrived: ReadonlyMap<number, ArrivedUntil>,
  step: Duration
): WatchedSource {
  const complete = new Map([...arrived].map(([id, one]) => [id, one.complete]));
  const series = seriesById(resolved);
  const isAlone = isOfSingleSeries(resolved);
  // A series that is compared with its peers cannot be read without them.
  const mayNarrow = isAlone && !ruleNeeds(rule, step).peers;
  const lines = Object.values(resolved.lines.until(resolved.signal, context.now));
  return {
    latest: lines.reduce((most, until) => (until > most ? until : most), latestOf(complete)),
    isAppearing: linesOf(resolved.signal).some(({ by }) => by.length > 0),
    inputs: everySeries(resolved.series).length,
    series: isAlone ? new Map([...arrived].map(([id, until]) => [String(id), until])) : null,
    watched: watching(series),
    endedAt: ({ seriesId }) => (seriesId === null ? null : (series.get(seriesId)?.endedAt ?? null)),
    gapsFinal: ({ seriesId }) => (seriesId === null ? null : (arrived.get(seriesId)?.gapsFinal ?? null)),
    read: async (span, only, lastValueAt) => {
      const wanted = only && mayNarrow ? withSeries(resolved, only) : resolved;
      const cells = await evaluated(context, wanted, span, step, complete);
      refuseTwins(cells.columns.filter(({ seriesId }) => seriesId === null));
      const lasts = cells.columns.map(
        (column) => lastValueAt(columnKey(column)) ?? newestBefore(column, span.from, step)
      );
      return { ...cells, data: await conditionData(context, wanted, rule, cells, lasts, context.bandsOf) };
    }
  };
}

/** The cell of the newest sample when that lies before a span, of a series that nothing is remembered of. */
function newestBefore({ newest }: Column, from: Instant, step: Duration): Instant | null {
  if (newest === null || newest >= from) return null;
  return (Math.floor(newest / step) * step) as Instant;
}

/** Whether a signal's columns are its series themselves: only those that have something to judge need be computed then. */
function isOfSingleSeries({ signal: { rows } }: Resolved): boolean {
  const [row] = rows;
  return rows.length === 1 && row !== undefined && isPick(row) && !row.combine;
}

const withSeries = (resolved: Resolved, keys: ReadonlySet<string>): Resolved => ({
  ...resolved,
  series: Object.fromEntries(
    Object.entries(resolved.series).map(([row, all]) => [row, all.filter(({ id }) => keys.has(String(id)))])
  )
});

/** Who a column of a signal is: a stored series by its id, others by their labels. */
export function watching(
  series: ReadonlyMap<number, Series>
): (column: Pick<Column, 'labels' | 'seriesId'>) => Watched {
  return (column) => ({
    key: columnKey(column),
    labels: column.labels,
    seriesId: column.seriesId,
    accountId: column.seriesId === null ? null : (series.get(column.seriesId)?.accountId ?? null)
  });
}
