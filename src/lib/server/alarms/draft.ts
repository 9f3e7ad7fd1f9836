import {
  gravestLevel,
  graver,
  stepOfAlarm,
  suggestCondition,
  watchedUnit,
  type AlarmDefinition,
  type Seen,
  type Severity
} from '$lib/core/alarm';
import { summarise } from '$lib/core/series';
import {
  isPick,
  picksOf,
  plainPick,
  plainSignal,
  shownRows,
  signalSubject,
  steadySignalSchema,
  stepOf,
  type Signal,
  type WordsOf
} from '$lib/core/signal';
import { before, day, minute, range, textFromDuration, type Duration } from '$lib/core/time';
import { allMetrics } from '../inventory/metrics';
import { allResources } from '../inventory/resources';
import { allAccounts } from '../inventory/accounts';
import { allPlans, slowestEvery } from '../intake/plan/plans';
import { routingChoices } from '../routing/routing-choices';
import { signalProblem } from '../query/query';
import { resolveSignal, workOf } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';
import type { Context } from '../db/context';
import { allAlarms } from './alarms';

/** What evaluating the signal of an alarm needs. */
interface SignalContext extends Pick<Context, 'db' | 'clock'> {
  readonly evaluator: SignalEvaluator;
}

/**
 * An alarm made from a signal, everything filled in: a threshold that suits the last day, three of five windows, the list of routes.
 *
 * @param signalText the panel's signal as JSON, from the address; what cannot be read gives the first panel's
 */
export async function draftAlarm(context: SignalContext, signalText: string | null): Promise<AlarmDefinition> {
  const { db } = context;
  const wanted = signalFrom(signalText);
  const pick = plainPick(wanted);
  const problem = await signalProblem(db, wanted);
  const signal =
    pick && problem?.path?.at(-1) === 'statistic'
      ? plainSignal({ metric: pick.metric, where: pick.where, statistic: 'avg', step: wanted.step })
      : wanted;
  const metrics = await allMetrics(db);
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const worked = problem === null || signal !== wanted ? await lastDay(context, signal) : null;
  const unit = worked?.isKnown ? worked.unit : watchedUnit(signal, wordsOf);
  const condition = suggestCondition(unit, worked ?? { smallest: NaN, largest: NaN, isWhole: false });
  const what = pick ? (wordsOf(pick.metric)?.title ?? pick.metric).toLowerCase() : shownWords(signal, wordsOf);
  return {
    name: `${condition.is === 'above' ? 'High' : 'Low'} ${what}`.slice(0, 120),
    signal: pick || !worked?.isKnown ? signal : { ...signal, unit: worked.unit },
    rule: {
      levels: [{ severity: 'major', condition }],
      window: { needs: 3, of: 5 },
      whenMissing: 'indeterminate',
      zone: 'UTC'
    },
    ...usualDetails
  };
}

/** What a new alarm has besides: it is on, and the list of routes decides who is notified. */
const usualDetails = { enabled: true, labels: {}, owner: '', about: '', runbook: '', route: null };

/** Alarms that a combined one begins with at most. */
const mostCombined = 10;

/**
 * An alarm that combines others, raised while all of them are; where fewer than two are named, conditions on signals take their places.
 *
 * @param ids of alarms; what is no alarm is passed over
 */
export async function draftCombined({ db }: SignalContext, ids: readonly number[]): Promise<AlarmDefinition> {
  const alarms = await allAlarms(db);
  const chosen = alarms.filter(({ id }) => ids.includes(id)).slice(0, mostCombined);
  const steps = chosen.map(({ definition }) => stepOfAlarm(definition));
  const step = textFromDuration(steps.reduce<Duration>((most, one) => (one > most ? one : most), minute));
  const usual = (name: string, metric: string, limit: number) => ({
    ...{ name, signal: plainSignal({ metric, statistic: 'avg', step }) },
    condition: { kind: 'threshold' as const, is: 'above' as const, limit }
  });
  const spare = [
    usual('Processor use is high', 'machine.processor.use', 80),
    usual('Memory use is high', 'machine.memory.use', 80)
  ];
  const parts = chosen.map(({ id }) => ({ alarm: id }));
  const gravest = chosen.reduce<Severity>(
    (most, { definition }) => graver(most, gravestLevel(definition.rule).severity) ?? most,
    'major'
  );
  return {
    name:
      chosen.length >= 2
        ? chosen
            .map(({ definition }) => definition.name)
            .join(' and ')
            .slice(0, 120)
        : 'Combined',
    combines: { parts: parts.length >= 2 ? parts : [...parts, ...spare.slice(parts.length)], by: [], step },
    rule: {
      levels: [{ severity: gravest, condition: { kind: 'combined', needs: 'all' } }],
      window: { needs: 1, of: 1 },
      whenMissing: 'indeterminate',
      zone: 'UTC'
    },
    ...usualDetails
  };
}

/**
 * A signal that says the unit of what it yields, since a threshold on it is in that unit. One of a single metric has the metric's unit; one that yields nothing yet has
 * none that could be told.
 *
 * @throws Refusal when it cannot be computed
 */
export async function withUnit(context: SignalContext, signal: Signal): Promise<Signal> {
  if (signal.unit !== undefined || plainPick(signal) !== null) return signal;
  const worked = await lastDay(context, signal);
  return worked?.isKnown ? { ...signal, unit: worked.unit } : signal;
}

/** What a signal came to over the last day; null when it cannot be computed. */
async function lastDay(
  { db, evaluator, clock }: SignalContext,
  signal: Signal
): Promise<({ readonly unit: string; readonly isKnown: boolean } & Seen) | null> {
  const now = clock.now();
  const resolved = await resolveSignal(db, signal);
  const worked = await evaluator.evaluate(workOf(resolved, now), range(before(now, day), now), stepOf(signal));
  const [row] = worked.kind === 'worked' ? worked.rows : [];
  if (row === undefined) return null;
  const figures = row.columns.map(({ values }) => summarise(values)).filter(({ max }) => !Number.isNaN(max));
  const smallest = figures.reduce((least, { min }) => Math.min(least, min), Infinity);
  const largest = figures.reduce((most, { max }) => Math.max(most, max), -Infinity);
  const isWhole = row.columns.every(({ values }) =>
    values.every((value) => Number.isNaN(value) || Number.isInteger(value))
  );
  return { unit: row.unit, isKnown: row.columns.length > 0, smallest, largest, isWhole };
}

/** What a signal of several rows shows, in a few words: what its row is called or combines. */
function shownWords(signal: Signal, wordsOf: WordsOf): string {
  const shown = signal.rows.find(({ name }) => name === shownRows(signal)[0]);
  if (shown === undefined || isPick(shown)) return signalSubject(signal, wordsOf);
  if (shown.name.length > 2) return shown.name.replaceAll('_', ' ');
  // A row that is called by a letter says nothing: what it is made of does.
  const titles = [...new Set(picksOf(signal).map(({ metric }) => (wordsOf(metric)?.title ?? metric).toLowerCase()))];
  return titles.slice(0, 2).join(' against ');
}

function signalFrom(text: string | null): Signal {
  const usual = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
  if (text === null) return usual;
  try {
    return steadySignalSchema.safeParse(JSON.parse(text)).data ?? usual;
  } catch (error) {
    if (error instanceof SyntaxError) return usual;
    throw error;
  }
}

/** What the alarm's page offers to choose from. */
export async function alarmChoices({ db }: Pick<Context, 'db'>) {
  const [metrics, accounts, resources, routing, plans, alarms] = await Promise.all([
    allMetrics(db),
    allAccounts(db),
    allResources(db),
    routingChoices(db),
    allPlans(db),
    allAlarms(db)
  ]);
  return {
    metrics: metrics.map((metric) => ({ ...metric, everyMs: slowestEvery(plans, metric.service) })),
    alarms: alarms.map(({ id, definition }) => ({ id, definition })),
    accounts: accounts.map(({ name }) => name),
    resources: resources.map(({ id, name, account, type }) => ({ id, name, account, type })),
    routing
  };
}
