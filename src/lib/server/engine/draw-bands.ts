import { bandEdge } from '$lib/core/band';
import { mostDrawnBands, type BandAnswer } from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import type { Signal } from '$lib/core/signal';
import { before, day, range as rangeOf, spokenDuration, type Duration, type Range } from '$lib/core/time';
import { completeUntilOf } from '../query/signals/arrivals';
import { resolveSignal } from '../query/signals/resolve';
import { evaluated } from './condition-data';
import type { SourceContext } from './source';

/** Bands to be drawn. */
export interface BandsAsked {
  readonly signal: Signal;
  readonly range: Range;
  /** Length of a cell, ms. */
  readonly step: Duration;
  /** How wide they are drawn. */
  readonly widths: number;
}

/** Days over which bands are drawn: a model is fitted for each. */
const mostDays = 31;

/**
 * The anomaly bands of a signal over a span, as alarms see them.
 *
 * @throws Refusal when the signal cannot be evaluated, has too many series, or the span is too long
 */
export async function drawBands(
  context: SourceContext,
  { signal, range, step, widths }: BandsAsked
): Promise<BandAnswer> {
  if (range.to - range.from > mostDays * day)
    throw new Refusal(
      'too-many-cells',
      `Anomaly bands are drawn over ${mostDays} days at most, not over ${spokenDuration((range.to - range.from) as Duration)}.`,
      'Choose a shorter range.'
    );
  const resolved = await resolveSignal(context.db, signal);
  const complete = await completeUntilOf(context.arrivals, resolved, step);
  // How many series it yields, one cell says.
  const newest = rangeOf(before(range.to, step), range.to);
  const { columns } = await evaluated(context, resolved, newest, step, complete);
  if (columns.length > mostDrawnBands)
    throw new Refusal(
      'too-many-cells',
      `Anomaly bands are drawn for ${mostDrawnBands} series at most: it has ${columns.length}.`,
      'Narrow what it picks.'
    );
  const cells = await evaluated(context, resolved, range, step, complete);
  const bands = await context.bandsOf(context, resolved, cells.columns, cells.grid);
  const listed = (numbers: Float64Array) => Array.from(numbers, (number) => (Number.isFinite(number) ? number : null));
  return {
    ...{ start: cells.grid.start, step: cells.grid.step, count: cells.grid.count, unit: cells.unit },
    series: cells.columns.map(({ labels }, of) => {
      const band = bands[of] ?? null;
      return {
        labels,
        low: band ? listed(bandEdge(band, -widths)) : [],
        high: band ? listed(bandEdge(band, widths)) : [],
        learned: band?.learned ?? null
      };
    })
  };
}
