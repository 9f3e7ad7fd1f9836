import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { pointsOfLength, type SummaryPoints } from '$lib/core/series';
import { mostDerivedSeries, standardLabels, stepOf, type Column, type Labels } from '$lib/core/signal';
import { before, cellStart, duration, instant, range, times, type Grid, type Instant } from '$lib/core/time';
import { notePull } from '../../intake/ledger/collections';
import type { Intake } from '../../intake/ledger/intake';
import { storeSeries } from '../../intake/ledger/store-series';
import type { FetchedSeries } from '../../providers/port/provider';
import { completeUntilOf } from '../signals/arrivals';
import { arrivedNow } from '../signals/arrived-now';
import { refuseTwins, resolveSignal, workOf } from '../signals/resolve';
import type { SignalEvaluator } from '../signals/work';
import { allDerived, askBackfill, noteBackfilled, noteRun, type Derived } from './derived';
import { derivedProvider, derivedResource } from './identity';

/** Cells computed again each time, for samples that came late. */
const overlap = 5;
/** Cells of one piece of work. */
const mostCells = 1500;

type Worker = Pick<Intake, 'db' | 'store' | 'disk' | 'book' | 'clock' | 'changes' | 'log'> & {
  readonly evaluator: SignalEvaluator;
};

/**
 * Computes what is due of every derived metric that is switched on: the cells that are complete since the last time, and one piece of the past that was asked
 * for. One that cannot be computed says why and does not stop the others.
 */
export async function computeDerived(worker: Worker, stopped: () => boolean = () => false): Promise<void> {
  for (const derived of await allDerived(worker.db)) {
    if (stopped()) return;
    if (!derived.enabled) continue;
    try {
      await computeDue(worker, derived);
    } catch (error) {
      if (!(error instanceof Refusal)) worker.log.error({ err: error, derived: derived.id }, 'derived metric failed');
      const at = worker.clock.now();
      const problem =
        error instanceof Refusal
          ? { message: error.message, remedy: error.remedy }
          : { message: 'It could not be computed.', remedy: 'See Bussola’s log. It is tried again.' };
      await noteRun(worker.db, derived.id, { ...nothing, at, error: problem });
    }
  }
}

const nothing = { computedUntil: null, series: 0, points: 0, milliseconds: 0 };

async function computeDue(worker: Worker, derived: Derived): Promise<void> {
  const { db, clock } = worker;
  const now = clock.now();
  const step = stepOf(derived.definition);
  const resolved = await resolveSignal(db, derived.definition);
  const work = workOf(resolved, now);
  // What is stored is of whole cells: a sum waits for the last of its parts.
  const complete = await completeUntilOf(await arrivedNow(worker), resolved, step);
  const here = Math.min(now, ...complete.values(), ...Object.values(work.linesUntil));
  const until = instant(Math.floor(here / step) * step);
  const piece = duration(mostCells * step);

  // A clock that was set back, or a long stop: what lies further back is history.
  const known = derived.computedUntil !== null && derived.computedUntil <= until ? derived.computedUntil : null;
  if (known !== until) {
    const begin = known === null ? before(until, step) : before(known, times(overlap, step));
    const from = instant(Math.max(begin, until - piece));
    if (known !== null && from > known) await askBackfill(db, derived.id, known, from);
    const run = await store(worker, derived, work, from, until);
    await noteRun(db, derived.id, { ...run, at: now, computedUntil: until, error: null });
    if (run.points > 0) worker.changes.tell('samples', { accountId: derived.accountId });
  } else if (derived.lastError !== null)
    await noteRun(db, derived.id, { ...nothing, series: derived.series, at: now, error: null });

  const { backfillFrom, backfillUntil } = derived;
  if (backfillFrom === null || backfillUntil === null) return;
  const end = instant(Math.ceil(Math.min(backfillUntil, until) / step) * step);
  const start = instant(Math.max(Math.floor(backfillFrom / step) * step, end - piece));
  const run = start < end ? await store(worker, derived, work, start, end) : nothing;
  await noteBackfilled(db, derived.id, start, run.points);
  if (run.points > 0) worker.changes.tell('samples', { accountId: derived.accountId });
}

/** Computes the cells of [from, until) and stores them. */
async function store(
  { db, store: client, evaluator, disk, book, clock }: Worker,
  derived: Derived,
  work: ReturnType<typeof workOf>,
  from: Instant,
  until: Instant
): Promise<{ series: number; points: number; milliseconds: number }> {
  const began = clock.now();
  const worked = await evaluator.evaluate(work, range(from, until), stepOf(derived.definition));
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const columns = worked.rows[0]?.columns ?? [];
  if (columns.length > mostDerivedSeries)
    throw new Refusal(
      'signal-invalid',
      `It has ${columns.length} series, more than ${mostDerivedSeries}.`,
      'Narrow what it picks, or combine by fewer labels.'
    );
  refuseTwins(columns);
  const fetched = columns.map((column): FetchedSeries => ({
    resource: derivedResource(derived.id),
    metric: derived.metric,
    labels: storedLabels(column.labels),
    points: pointsOf(column, worked.grid)
  }));
  const { written, newest } = await storeSeries(
    { db, store: client, disk, book },
    derived.accountId,
    derivedProvider,
    fetched,
    began
  );
  await notePull(db, derived.accountId, derivedProvider, {
    startedAt: began,
    finishedAt: clock.now(),
    points: written,
    requests: 0,
    throttled: 0,
    refused: 0,
    error: null,
    newestAt: newest,
    pulledUntil: began,
    lateUntil: null,
    notBefore: null
  });
  return { series: columns.length, points: written, milliseconds: worked.effort.milliseconds };
}

/** Labels of a stored series: those of where its numbers are from are stored as `of_…`, since the series itself is from here. */
function storedLabels(labels: Labels): Record<string, string> {
  const entries = Object.entries(labels).filter(([, value]) => value !== '');
  return Object.fromEntries(
    entries.map(([name, value]) => [standardLabels.some((label) => label === name) ? `of_${name}` : name, value])
  );
}

/** The cells that have a value, as single readings. */
function pointsOf({ values }: Column, grid: Grid): SummaryPoints {
  const cells = [...values.keys()].filter((cell) => !Number.isNaN(values[cell] as number));
  const points = pointsOfLength(cells.length);
  cells.forEach((cell, index) => {
    points.at[index] = cellStart(grid, cell);
    points.sum[index] = points.min[index] = points.max[index] = values[cell] as number;
    points.count[index] = 1;
  });
  return points;
}
