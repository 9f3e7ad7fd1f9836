import {
  answerOf,
  isPick,
  labelKey,
  labelValue,
  picksOf,
  prepare,
  shownRows,
  signalSchema,
  wantedOf,
  type Row,
  type Worked
} from '$lib/core/signal';
import { valuesOf, type AnswerFault, type QueryAnswer } from '$lib/core/series';
import {
  gridOver,
  instantFromText,
  range,
  shortestStep,
  textFromDuration,
  type Duration,
  type Instant,
  type Range
} from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allCollections } from '../intake/collections';
import { Refusal } from '../refusal';
import { frameCsv } from '../store/frame-csv';
import type { AskedWork } from '../store/work';
import { completeUntilOf, type Arrivals } from './arrivals';
import { mostSeriesCells, type Queries, type Query } from './query-schema';
import { resolveSignal, resourcesOf, stockFor, SignalRefusal, stepFor, workOf, type Resolved } from './resolve';

/** How an answer is written as text. */
export type AnswerFormat = 'json' | 'csv';

/** Cells an answer may have over all its series. */
const mostAnswerCells = { json: 2_000_000, csv: 500_000 };
/** Cells that may be worked out on the way to one answer, and to those of a board together; formulas count for more. */
const mostWorkedCells = 20_000_000;
const mostBoardCells = 60_000_000;

/** Where signals are worked out: the database has their series, the store their samples. */
export interface Place {
  readonly db: Queryable;
  readonly now: Instant;
  evaluateAll(asked: readonly AskedWork[], zone: string): Promise<Worked[]>;
  /** Start of the newest sample of each series; null where there is none. */
  readonly newest: (seriesIds: readonly number[]) => (number | null)[];
}

const arrivalsAt = async ({ db, now, newest }: Place): Promise<Arrivals> => ({
  now,
  collections: await allCollections(db),
  newest
});

/**
 * Evaluates a signal over a range and writes the answer as text.
 *
 * @throws SignalRefusal with the path within the signal; Refusal when the answer would have too many cells, naming the shortest step that fits
 */
export async function answeredQuery(place: Place, query: Query, format: AnswerFormat): Promise<string> {
  const { db, now } = place;
  const span = range(instantFromText(query.from), instantFromText(query.to));
  const resolved = await resolveSignal(db, query.signal);
  const step = stepFor(resolved, span, query.cells);
  refuseTooLarge(resolved, span, step, query.zone, format);
  const complete = await completeUntilOf(await arrivalsAt(place), resolved);
  const work = workOf(resolved, now, complete);
  const [worked] = (await place.evaluateAll([{ work, span, step }], query.zone)) as [Worked];
  if (worked.kind === 'fault') throw new SignalRefusal(worked.message, worked.remedy, worked.path, worked.at);
  return format === 'csv'
    ? frameCsv(worked)
    : JSON.stringify(
        written(answerOf(worked, work.completeUntil, now, resourcesOf([resolved]), complete), query.values)
      );
}

/** A signal of a board, ready to be worked out. */
interface AskedAnswer extends AskedWork {
  readonly of: Resolved;
  readonly complete: ReadonlyMap<number, Instant>;
}

/** Evaluates the signals of a board together: one entry for each signal, either an answer or why there is none. What they share is read once. */
export async function answeredQueries(place: Place, queries: Queries): Promise<string> {
  const { db, now } = place;
  const [stock, arrivals] = await Promise.all([stockFor(db, queries.signals), arrivalsAt(place)]);
  let cells = 0;
  const resolved = await Promise.all(
    queries.signals.map(async (signal, index): Promise<AskedAnswer | AnswerFault> => {
      const { from, to, cells: room } = queries.spans?.[index] ?? queries;
      try {
        const of = await resolveSignal(db, signal, stock);
        const span = range(instantFromText(from), instantFromText(to));
        const step = stepFor(of, span, room);
        cells += refuseTooLarge(of, span, step, queries.zone, 'json');
        if (cells > mostBoardCells)
          throw new Refusal(
            'This board asks for more than can be worked out at once.',
            'Show a shorter range, or ask for fewer signals together.'
          );
        const complete = await completeUntilOf(arrivals, of);
        return { of, work: workOf(of, now, complete), span, step, complete };
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return faultOf(error);
      }
    })
  );
  const asked = resolved.filter((one) => 'work' in one);
  const all = await place.evaluateAll(asked, queries.zone);
  const resources = resourcesOf(asked.map(({ of }) => of));
  const answers = all.map((worked, index) => {
    const { work, complete } = asked[index] as AskedAnswer;
    return written(answerOf(worked, work.completeUntil, now, resources, complete), queries.values);
  });
  return JSON.stringify(resolved.map((one) => ('work' in one ? answers.shift() : one)));
}

/** An answer as JSON has it. */
function written(answer: QueryAnswer | AnswerFault, as: Query['values']): object {
  if (!('series' in answer)) return answer;
  const write = as === 'packed' ? packed : listed;
  return { ...answer, series: answer.series.map((series) => ({ ...series, values: write(valuesOf(series)) })) };
}

const packed = ({ buffer, byteOffset, byteLength }: Float64Array): string =>
  Buffer.from(buffer, byteOffset, byteLength).toString('base64');

function listed(values: Float64Array): (number | null)[] {
  const list: (number | null)[] = [];
  for (const value of values) list.push(Number.isNaN(value) ? null : value);
  return list;
}

/** A refusal as data that can cross a thread's border. */
export function faultOf(error: Refusal): AnswerFault {
  const { path, at } = error instanceof SignalRefusal ? error : { path: [], at: null };
  return { message: error.message, remedy: error.remedy, path, at };
}

/** @returns how many cells are worked out on the way */
function refuseTooLarge(resolved: Resolved, span: Range, step: Duration, zone: string, format: AnswerFormat): number {
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

/** The remedy names a step only when it fits: one more cell than the range has room for may be begun at each end. */
const tooMany = (what: string, span: Range, room: number): Refusal => {
  const fits = room > 2 ? shortestStep(span, room - 2) : null;
  return new Refusal(
    `The answer would have ${what}, more than ${room} for each.`,
    fits !== null && isAllowedStep(fits)
      ? `Ask for a step of ${textFromDuration(fits)} or longer, or for a shorter range.`
      : 'Ask for a shorter range, or for fewer series.'
  );
};

/** Whether a signal may have a step: those that are proposed must be taken. */
const isAllowedStep = (step: Duration): boolean => signalSchema.shape.step.safeParse(textFromDuration(step)).success;

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
