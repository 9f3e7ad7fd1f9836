import { Refusal, type Problem, refusalOf, problemOf } from '$lib/core/problem/problem';
import {
  answerOf,
  isFormula,
  isOfLines,
  labelKey,
  labelValue,
  linesOf,
  mostLineGroups,
  readRows,
  shownRows,
  signalSchema,
  type Signal,
  type Row,
  type Worked
} from '$lib/core/signal';
import { prepare, wantedOf } from '$lib/core/signal/evaluate';
import { valuesOf, type QueryAnswer } from '$lib/core/series';
import {
  gridOver,
  instantFromText,
  range,
  shortestStep,
  textFromDuration,
  textFromInstant,
  type Duration,
  type Instant,
  type Range
} from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { requireLines } from '../../people/line-access';
import { allCollections } from '../../intake/ledger/collections';
import { frameCsv } from './frame-csv';
import type { AskedWork } from './work';
import { completeUntilOf, type Arrivals } from './arrivals';
import { sharedTime } from './shared-time';
import { mostSeriesCells, type Queries, type Query } from './query-schema';
import { resolveSignal, resourcesOf, stockFor, stepFor, workOf, type Resolved } from './resolve';

/** Answers as text, with how long it took to compute each, ms. */
export interface Answered {
  readonly text: string;
  readonly took: readonly number[];
}

/** How an answer is written as text. */
export type AnswerFormat = 'json' | 'csv';

/** Cells an answer may have over all its series. */
const mostAnswerCells = { json: 2_000_000, csv: 500_000 };
/** Cells that may be computed on the way to one answer, and to those of a board together; formulas count for more. */
const mostWorkedCells = 20_000_000;

/** What the answers of one request may come to together, in cells. */
export interface CellBudget {
  /** Over all series of all answers, also where the same is requested more than once: it is sent each time. */
  readonly answered: number;
  /** Worked out on the way to them. */
  readonly worked: number;
}

/** Of somebody who has signed in, and of all who see a board by a link. */
export const budgets = {
  person: { answered: 2_000_000, worked: mostWorkedCells },
  link: { answered: 500_000, worked: 5_000_000 }
} satisfies Record<string, CellBudget>;

/** Where signals are computed: the database has their series, the store their samples. */
export interface EvaluationContext {
  readonly db: Queryable;
  readonly now: Instant;
  /** Accounts whose lines may be counted; null for all. */
  readonly lines: readonly number[] | null;
  evaluateAll(toAnswer: readonly AskedWork[], zone: string): Promise<Worked[]>;
  /** Start of the newest sample of each series; null where there is none. */
  readonly newest: (seriesIds: readonly number[]) => (number | null)[];
}

const arrivalsAt = async ({ db, now, newest }: EvaluationContext): Promise<Arrivals> => ({
  now,
  collections: await allCollections(db),
  newest
});

/**
 * Evaluates a signal over a range and writes the answer as text.
 *
 * @throws Refusal with the path within the signal; Refusal when the answer would have too many cells, naming the shortest step that fits
 */
export async function answeredQuery(context: EvaluationContext, query: Query, format: AnswerFormat): Promise<Answered> {
  const { db, now, lines } = context;
  const span = range(instantFromText(query.from), instantFromText(query.to));
  refuseLines(query.signal, lines);
  const resolved = await resolveSignal(db, query.signal);
  const step = stepFor(resolved, span, query.cells);
  refuseTooLarge(resolved, span, step, query.zone, format);
  const complete = await completeUntilOf(await arrivalsAt(context), resolved);
  const work = { ...workOf(resolved, now, complete), lineAccounts: lines };
  const began = performance.now();
  const [worked] = (await context.evaluateAll([{ work, span, step }], query.zone)) as [Worked];
  const took = [performance.now() - began];
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const text =
    format === 'csv'
      ? frameCsv(worked)
      : JSON.stringify(written(answerOf(worked, work.completeUntil, now, resourcesOf([resolved]), complete), query));
  return { text, took };
}

/** What a signal took that could not be computed. */
const nothing = { milliseconds: 0, points: 0 };

/** A signal of a board, ready to be computed. */
interface AskedAnswer extends AskedWork {
  readonly of: Resolved;
  readonly complete: ReadonlyMap<number, Instant>;
  /** Cells of its answer. */
  readonly answered: number;
}

/**
 * Evaluates the signals of a board together: one entry for each signal, either an answer or why there is none. What they share is read once, equal ones are computed
 * once, and what is beyond the budget is refused.
 */
export async function answeredQueries(
  context: EvaluationContext,
  queries: Queries,
  budget: CellBudget
): Promise<Answered> {
  const { db, now, lines } = context;
  const [stock, arrivals] = await Promise.all([stockFor(db, queries.signals), arrivalsAt(context)]);
  const keys = queries.signals.map((signal, index) => JSON.stringify([signal, queries.spans?.[index] ?? null]));
  const left = { ...budget };
  const tooMuch = problemOf(
    new Refusal(
      'too-much-at-once',
      'This board asks for more than can be computed at once.',
      'Show a shorter range, or ask for fewer signals together.'
    )
  );
  const distinct = [...new Set(keys)];
  const resolved = await Promise.all(
    distinct.map(async (key): Promise<AskedAnswer | Problem> => {
      const index = keys.indexOf(key);
      const signal = queries.signals[index] as Signal;
      const { from, to, cells: room } = queries.spans?.[index] ?? queries;
      try {
        refuseLines(signal, lines);
        const of = await resolveSignal(db, signal, stock);
        const span = range(instantFromText(from), instantFromText(to));
        const step = stepFor(of, span, room);
        const { answered, worked } = refuseTooLarge(of, span, step, queries.zone, 'json');
        if (worked > left.worked) return tooMuch;
        left.worked -= worked;
        const complete = await completeUntilOf(arrivals, of);
        return { of, work: { ...workOf(of, now, complete), lineAccounts: lines }, span, step, complete, answered };
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return problemOf(error);
      }
    })
  );
  const byKey = new Map(distinct.map((key, index) => [key, resolved[index] as AskedAnswer | Problem]));
  const isSent = keys.map((key) => {
    const one = byKey.get(key);
    const cells = one !== undefined && 'work' in one ? one.answered : 0;
    if (cells > left.answered) return false;
    left.answered -= cells;
    return true;
  });
  const sent = new Set(keys.filter((_key, index) => isSent[index]));
  const toAnswer = [...byKey].flatMap(([key, one]) => ('work' in one && sent.has(key) ? [{ key, ...one }] : []));
  const began = performance.now();
  const all = await context.evaluateAll(
    toAnswer.map(({ work, span, step }) => ({ work, span, step })),
    queries.zone
  );
  const each = sharedTime(
    all.map((one) => (one.kind === 'worked' ? one.effort : nothing)),
    performance.now() - began
  );
  const tookOf = new Map(toAnswer.map(({ key }, index) => [key, each[index] as number]));
  const resources = resourcesOf(toAnswer.map(({ of }) => of));
  const texts = new Map(
    all.map((worked, index) => {
      const { key, work, complete } = toAnswer[index] as AskedAnswer & { key: string };
      const answer = answerOf(worked, work.completeUntil, now, resources, complete);
      return [key, JSON.stringify(written(answer, queries))];
    })
  );
  const entries = keys.map((key, index) => {
    if (!isSent[index]) return JSON.stringify(tooMuch);
    return texts.get(key) ?? JSON.stringify(byKey.get(key));
  });
  return { text: `[${entries.join(',')}]`, took: keys.map((key) => tookOf.get(key) ?? 0) };
}

/** @throws Refusal `not-allowed` for a signal that counts lines, where none may be read */
function refuseLines(signal: Signal, accounts: readonly number[] | null): void {
  if (linesOf(signal).length > 0) requireLines(accounts);
}

/** An answer as JSON has it. */
function written(answer: QueryAnswer | Problem, { values, times }: Pick<Query, 'values' | 'times'>): object {
  if (!('series' in answer)) return answer;
  const write = values === 'packed' ? packed : listed;
  const at = (instant: Instant) => (times === 'rfc3339' ? textFromInstant(instant) : instant);
  return {
    ...answer,
    now: at(answer.now),
    start: at(answer.start),
    series: answer.series.map((series) => ({
      ...series,
      newest: series.newest === null ? null : at(series.newest),
      values: write(valuesOf(series))
    }))
  };
}

const packed = ({ buffer, byteOffset, byteLength }: Float64Array): string =>
  Buffer.from(buffer, byteOffset, byteLength).toString('base64');

function listed(values: Float64Array): (number | null)[] {
  const list: (number | null)[] = [];
  for (const value of values) list.push(Number.isNaN(value) ? null : value);
  return list;
}

/** @returns how many cells the answer has at most, and how many are computed on the way */
function refuseTooLarge(
  resolved: Resolved,
  span: Range,
  step: Duration,
  zone: string,
  format: AnswerFormat
): CellBudget {
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
  return { answered: cells * columns, worked };
}

/** The remedy names a step only when it fits: one more cell than the range has room for may be begun at each end. */
const tooMany = (what: string, span: Range, room: number): Refusal => {
  const fits = room > 2 ? shortestStep(span, room - 2) : null;
  return new Refusal(
    'too-many-cells',
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
    if (isOfLines(row)) return row.by.length === 0 ? 1 : mostLineGroups + 1;
    if (isFormula(row)) return Math.max(1, ...readRows(signal).map(ofRow)); // where series meet, there are no more than on one side
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
