import { z } from 'zod';
import type { AnswerFault } from '$lib/core/series';
import {
  isPick,
  labelKey,
  labelValue,
  picksOf,
  prepare,
  shownRows,
  signalSchema,
  wantedOf,
  type Row,
  type Signal
} from '$lib/core/signal';
import {
  gridOver,
  isZone,
  instantFromText,
  range,
  shortestStep,
  textFromDuration,
  type Duration,
  type Range
} from '$lib/core/time';
import { Refusal } from './refusal';
import { resolveSignal, resourcesOf, SignalRefusal, stepFor, workOf, type Resolved } from './signals/resolve';
import type { Bussola } from './start';
import type { FrameFormat } from './store/sample-store';

/** Cells an answer may have over all its series, and for each of them. */
const mostAnswerCells = { json: 2_000_000, csv: 500_000 };
const mostSeriesCells = 20_000;
/** Cells that may be worked out on the way to one answer, and to those of a board together; formulas count for more. */
const mostWorkedCells = 20_000_000;
const mostBoardCells = 60_000_000;
/** Signals of one board. */
const mostSignals = 100;

/** An RFC 3339 instant in a request. */
const instantText = z
  .string()
  .refine((text) => /^\d{4}-\d\d-\d\dT.*(Z|[+-]\d\d:\d\d)$/i.test(text) && !Number.isNaN(Date.parse(text)), {
    error: 'Give a date and time with a zone, such as 2026-05-04T08:00:00Z.'
  });

const spanShape = {
  from: instantText,
  to: instantText,
  cells: z.int().min(1).max(mostSeriesCells).optional(),
  /** IANA zone in which cells of days and weeks begin. */
  zone: z
    .string()
    .max(60)
    .refine(isZone, { error: 'Give a time zone by its IANA name, such as Europe/Berlin.' })
    .default('UTC')
};
const inOrder = ({ from, to }: { from: string; to: string }): boolean => Date.parse(from) <= Date.parse(to);
const outOfOrder = { error: 'The end must not be before the start.', path: ['to'] };

/** Body of `POST /api/v1/query`: a signal, a range, and how many cells a picture has room for; the step grows to fit. */
export const querySchema = z.strictObject({ signal: signalSchema, ...spanShape }).refine(inOrder, outOfOrder);
export type Query = z.infer<typeof querySchema>;

/** Body of `POST /api/v1/queries`: the signals of a board, answered together over one range. */
export const queriesSchema = z
  .strictObject({ signals: z.array(signalSchema).max(mostSignals), ...spanShape })
  .refine(inOrder, outOfOrder);
export type Queries = z.infer<typeof queriesSchema>;

/**
 * Evaluates a signal over a range: the answer as bytes of JSON or CSV, computed in the store's thread.
 *
 * @throws SignalRefusal with the path within the signal; Refusal when the answer would have too many cells, naming the shortest step that fits
 */
export async function answerQuery(
  { db, store, clock }: Bussola,
  query: Query,
  format: FrameFormat = 'json'
): Promise<Uint8Array> {
  const span = range(instantFromText(query.from), instantFromText(query.to));
  const resolved = await resolveSignal(db, query.signal);
  const step = stepFor(resolved, span, query.cells);
  refuseTooLarge(resolved, span, step, query.zone, format);
  const now = clock.now();
  const answer = await store.samples.answer(
    workOf(resolved, now),
    span,
    step,
    query.zone,
    now,
    resourcesOf([resolved]),
    format
  );
  if (answer instanceof Uint8Array) return answer;
  throw new SignalRefusal(answer.message, answer.remedy, answer.path, answer.at);
}

/** Evaluates the signals of a board together: a list with one entry for each signal, either an answer or why there is none. What they share is read once. */
export async function answerQueries({ db, store, clock }: Bussola, queries: Queries): Promise<Uint8Array> {
  const span = range(instantFromText(queries.from), instantFromText(queries.to));
  let worked = 0;
  const resolved = await Promise.all(
    queries.signals.map(async (signal): Promise<Resolved | AnswerFault> => {
      try {
        const one = await resolveSignal(db, signal);
        worked += refuseTooLarge(one, span, stepFor(one, span, queries.cells), queries.zone, 'json');
        if (worked > mostBoardCells)
          throw new Refusal(
            'This board asks for more than can be worked out at once.',
            'Show a shorter range, or ask for fewer signals together.'
          );
        return one;
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        const { path, at } = error instanceof SignalRefusal ? error : { path: [], at: null };
        return { message: error.message, remedy: error.remedy, path, at };
      }
    })
  );
  const good = resolved.filter((one): one is Resolved => 'series' in one);
  const now = clock.now();
  const bytes = await store.samples.answers(
    good.map((one) => workOf(one, now)),
    span,
    good.map((one) => stepFor(one, span, queries.cells)),
    queries.zone,
    now,
    resourcesOf(good)
  );
  if (good.length === resolved.length) return bytes;
  const answers = JSON.parse(new TextDecoder().decode(bytes)) as unknown[];
  return new TextEncoder().encode(JSON.stringify(resolved.map((one) => ('series' in one ? answers.shift() : one))));
}

/** Why a signal cannot be had of its metrics, in words; null when it can. */
export async function signalProblem(db: Bussola['db'], signal: Signal): Promise<SignalRefusal | null> {
  try {
    await resolveSignal(db, signal);
    return null;
  } catch (error) {
    if (error instanceof SignalRefusal) return error;
    throw error;
  }
}

/** @returns how many cells are worked out on the way */
function refuseTooLarge(resolved: Resolved, span: Range, step: Duration, zone: string, format: FrameFormat): number {
  const cells = Math.ceil((span.to - span.from) / step) + 1;
  const columns = columnsOf(resolved);
  const most = mostAnswerCells[format];
  if (cells > mostSeriesCells || cells * columns > most) {
    const room = Math.min(mostSeriesCells, Math.floor(most / Math.max(1, columns)));
    throw tooMany(`${cells} cells for each of ${columns} series`, span, room);
  }
  const prepared = prepare(resolved.signal);
  const read = wantedOf(prepared, gridOver(span, step, zone)).reduce(
    (sum, { row, grid }) => sum + grid.count * (resolved.series[row.name]?.length ?? 0),
    0
  );
  const worked = Math.round(read * (1 + prepared.parts / 10));
  if (worked > mostWorkedCells)
    throw tooMany(
      `${worked} cells on the way to it`,
      span,
      Math.max(1, Math.floor((cells * mostWorkedCells) / worked))
    );
  return worked;
}

const tooMany = (what: string, span: Range, room: number): Refusal =>
  new Refusal(
    `The answer would have ${what}, more than ${room} for each.`,
    `Ask for a step of ${textFromDuration(shortestStep(span, room - 1))} or longer, or for a shorter range.`
  );

/** How many series an answer has at most. */
function columnsOf({ signal, series }: Resolved): number {
  const { limit } = signal;
  const ofRow = (row: Row): number => {
    if (!isPick(row)) return Math.max(1, ...picksOf(signal).map(ofRow)); // where series meet, there are no more than on one side
    const found = series[row.name] ?? [];
    const { combine } = row;
    if (!combine) return found.length;
    const of = ({ labels }: (typeof found)[number]) =>
      labelKey(Object.fromEntries(combine.by.map((name) => [name, labelValue(labels, name)])));
    return new Set(found.map(of)).size;
  };
  return shownRows(signal).reduce((sum, name) => {
    const row = signal.rows.find((one) => one.name === name) as Row;
    const columns = ofRow(row);
    return sum + (limit ? Math.min(columns, limit.keep + 1) : columns);
  }, 0);
}
