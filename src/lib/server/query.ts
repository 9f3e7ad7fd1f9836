import { z } from 'zod';
import { cannotGive, needsReadings } from '$lib/core/series';
import { meets, signalSchema, stepOf, type Signal } from '$lib/core/signal';
import {
  duration,
  instantFromText,
  range,
  shortestStep,
  textFromDuration,
  type Duration,
  type Range
} from '$lib/core/time';
import { Refusal } from './refusal';
import { seriesOfMetric, shapesOfMetric } from './intake/resources';
import type { Bussola } from './start';
import type { FrameFormat } from './store/sample-store';

/** Cells an answer may have over all its series, and for each of them. */
const mostAnswerCells = { json: 2_000_000, csv: 500_000 };
const mostSeriesCells = 20_000;

/** An RFC 3339 instant in a request. */
const instantText = z
  .string()
  .refine((text) => /^\d{4}-\d\d-\d\dT.*(Z|[+-]\d\d:\d\d)$/i.test(text) && !Number.isNaN(Date.parse(text)), {
    error: 'Give a date and time with a zone, such as 2026-05-04T08:00:00Z.'
  });

/** Body of `POST /api/v1/query`: a signal, a range, and how many cells a picture has room for; the step grows to fit. */
export const querySchema = z
  .strictObject({
    signal: signalSchema,
    from: instantText,
    to: instantText,
    cells: z.int().min(1).max(mostSeriesCells).optional()
  })
  .refine(({ from, to }) => Date.parse(from) <= Date.parse(to), {
    error: 'The end must not be before the start.',
    path: ['to']
  });
export type Query = z.infer<typeof querySchema>;

/**
 * Evaluates a signal over a range: the answer as bytes of JSON or CSV, computed in the store's thread.
 *
 * @throws Refusal when the metric cannot give the statistic, or the answer would have too many cells; it names the shortest step that fits
 */
export async function answerQuery(
  { db, store, clock }: Bussola,
  query: Query,
  format: FrameFormat = 'json'
): Promise<Uint8Array> {
  const span = range(instantFromText(query.from), instantFromText(query.to));
  const step = stepFor(query.signal, span, query.cells);
  const problem = await cannotGiveSignal(db, query.signal);
  if (problem !== null) throw new Refusal(problem, 'Ask for avg, min, max, sum, count or last.');
  const series = await seriesOf(db, query.signal);
  const cells = Math.ceil((span.to - span.from) / step) + 1;
  const most = mostAnswerCells[format];
  if (cells > mostSeriesCells || cells * series.length > most) {
    const room = Math.min(mostSeriesCells, Math.floor(most / Math.max(1, series.length)));
    throw new Refusal(
      `The answer would have ${cells} cells for each of ${series.length} series, more than ${room}.`,
      `Ask for a step of ${textFromDuration(shortestStep(span, room - 1))} or longer, or for a shorter range.`
    );
  }
  const who = series.map(({ id, resourceId, labels: { account, region, resource } }) => ({
    id,
    resourceId,
    account,
    region,
    resource
  }));
  return store.samples.frameBytes(who, span, step, query.signal.statistic, clock.now(), format);
}

/** Why a signal's statistic cannot be had of its metric, in words; null when it can. */
export async function cannotGiveSignal(db: Bussola['db'], { metric, statistic }: Signal): Promise<string | null> {
  if (!needsReadings(statistic)) return null;
  const shapes = await shapesOfMetric(db, metric);
  return shapes.map((shape) => cannotGive(statistic, shape)).find((why) => why !== null) ?? null;
}

/** The series a signal picks. */
export async function seriesOf(db: Bussola['db'], signal: Signal) {
  return (await seriesOfMetric(db, signal.metric)).filter(({ labels }) => meets(signal.where, labels));
}

/** The signal's own step, or the next readable one when the picture has no room for so many cells. */
function stepFor(signal: Signal, span: Range, cells: number | undefined): Duration {
  return duration(Math.max(stepOf(signal), cells === undefined ? 0 : shortestStep(span, cells)));
}
