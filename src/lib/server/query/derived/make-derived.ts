import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { unitOfStatistic } from '$lib/core/series';
import {
  asksFor,
  derivedMetricName,
  isPick,
  picksOf,
  shownRows,
  signalSentence,
  stepOf,
  type DerivedDefinition,
  type Signal
} from '$lib/core/signal';
import { before, day, range, times, type Instant } from '$lib/core/time';
import { isTaken, type Queryable } from '../../db/pool';
import { insertAccount } from '../../inventory/accounts';
import { beginCollections } from '../../intake/ledger/collections';
import { allMetrics, saveMetrics } from '../../inventory/metrics';
import { saveDiscovered } from '../../inventory/resources';
import { resolveSignal, workOf } from '../signals/resolve';
import type { Context } from '../../db/context';
import type { SignalEvaluator } from '../signals/work';
import { allDerived, askBackfill, insertDerived, type Derived } from './derived';
import { derivedProvider, derivedResource } from './identity';

/**
 * Makes a derived metric: it is computed from now on.
 *
 * @param backfillDays of stored history to work it out for as well; 0 for none
 * @throws Refusal when the name is taken, Refusal when the signal cannot be computed or would feed on itself
 */
export async function makeDerived(
  context: Context & { readonly evaluator: SignalEvaluator },
  { name, signal }: DerivedDefinition,
  by: string,
  backfillDays: number
): Promise<Derived> {
  const { db, clock, evaluator, changes } = context;
  const metric = derivedMetricName(name);
  await refuseFeeding(db, metric, signal);
  const resolved = await resolveSignal(db, signal);
  const now = clock.now();
  const step = stepOf(signal);
  const worked = await evaluator.evaluate(workOf(resolved, now), range(before(now, times(3, step)), now), step);
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const described = await allMetrics(db);
  const words = (of: string) => described.find((one) => one.name === of);
  const delayMs = now - workOf(resolved, now).completeUntil + step;
  try {
    const made = await db.transaction((within) =>
      registerDerived(
        within,
        {
          name,
          signal,
          description: signalSentence(signal, words, worked.rows[0] ? { unit: worked.rows[0].unit } : {}),
          unit: worked.rows[0]?.unit ?? unitBefore(signal, words),
          delayMs
        },
        by,
        now,
        backfillDays
      )
    );
    changes.tell('account', { accountId: made.accountId });
    changes.tell('definition', { alarmId: null });
    return made;
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal('name-taken', `There is already a derived metric named like ${name}.`, 'Choose another name.');
  }
}

/** What a derived metric is described as. */
export interface DescribedDerived extends DerivedDefinition {
  readonly description: string;
  readonly unit: string;
  readonly delayMs: number;
}

/** Writes a derived metric with all that the catalogue and the intake know of it; to be called in a transaction. */
export async function registerDerived(
  within: Queryable,
  { name, signal, description, unit, delayMs }: DescribedDerived,
  by: string,
  now: Instant,
  backfillDays: number
): Promise<Derived> {
  const metric = derivedMetricName(name);
  const accountId = await derivedAccount(within, by, now);
  const derived = await insertDerived(within, { accountId, name, metric, definition: signal }, by, now);
  await saveMetrics(within, derivedProvider, [
    {
      name: metric,
      title: name,
      description,
      unit,
      kind: 'gauge',
      shape: 'single',
      resourceType: 'derived',
      service: 'derived',
      recommended: true,
      level: 'host',
      samplingMs: stepOf(signal),
      delayMs
    }
  ]);
  const resource = {
    providerId: derivedResource(derived.id),
    name,
    type: 'derived',
    service: 'derived',
    region: '',
    tags: {},
    guest: 'none' as const,
    formerNames: []
  };
  await saveDiscovered(within, accountId, [resource], now, false);
  await beginCollections(within, accountId, [derivedProvider]);
  if (backfillDays > 0) await askBackfill(within, derived.id, before(now, times(backfillDays, day)), now);
  return derived;
}

/** The unit that a pick will have once something reports it. */
function unitBefore(signal: Signal, words: (metric: string) => { unit: string } | undefined): string {
  const row = signal.rows.find(({ name }) => name === shownRows(signal)[0]);
  return signal.unit ?? (row && isPick(row) ? unitOfStatistic(row.statistic, words(row.metric)?.unit ?? '1') : '1');
}

/** A derived metric that picks itself, directly or through others, would grow out of itself. */
async function refuseFeeding(db: Queryable, metric: string, signal: Signal): Promise<void> {
  const others = await allDerived(db);
  const seen = new Set<string>();
  const feedsOn = (of: Signal): boolean =>
    picksOf(of).some(
      (pick) =>
        asksFor(pick.metric, metric) ||
        others.some((other) => {
          if (!asksFor(pick.metric, other.metric) || seen.has(other.metric)) return false;
          seen.add(other.metric);
          return feedsOn(other.definition);
        })
    );
  if (feedsOn(signal))
    throw new Refusal(
      'signal-invalid',
      `The metric would be computed from itself: a row picks ${metric}.`,
      'Pick other metrics, or narrow the pattern.',
      { path: ['rows'] }
    );
}

async function derivedAccount(within: Queryable, by: string, at: Instant): Promise<number> {
  const rows = await within.rows<{ id: number }>('select id from accounts where provider = $1', [derivedProvider]);
  if (rows[0]) return rows[0].id;
  const account = await insertAccount(within, {
    name: 'derived',
    provider: derivedProvider,
    endpoint: '',
    keyId: '',
    sealedSecret: Buffer.alloc(0),
    createdAt: at,
    createdBy: by,
    historyFrom: at
  });
  return account.id;
}
