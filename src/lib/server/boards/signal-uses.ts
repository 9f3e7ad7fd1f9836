import { signalsOfAlarm } from '$lib/core/alarm';
import { signalsOf } from '$lib/core/board';
import { signalsOfObjective } from '$lib/core/objective';
import { asksFor, picksOf, readRows, type Signal } from '$lib/core/signal';
import { allBoards } from './boards';
import { allAlarms } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { objectives } from '../objective/objectives';
import { allDerived } from '../query/derived/derived';
import { allSignals } from '../query/signals/signals';

/** Something that holds a signal. */
export interface Use {
  readonly kind: 'alarm' | 'signal' | 'derived metric' | 'board' | 'promise';
  readonly id: number;
  readonly name: string;
}

/** The alarms, saved signals, derived metrics, boards and promises that pick a metric. */
export const usesOfMetric = (db: Queryable, metric: string): Promise<Use[]> =>
  usesWhere(db, (signal) => picksOf(signal).some((pick) => asksFor(pick.metric, metric)));

/** The alarms, saved signals, derived metrics, boards and promises that name a value of a label, such as an account. @example await usesOfValue(db, 'account', 'corallo-prod') */
export const usesOfValue = (db: Queryable, label: string, value: string): Promise<Use[]> =>
  usesWhere(db, (signal) =>
    readRows(signal).some(({ where }) =>
      where.some(
        (condition) =>
          condition.label === label &&
          (('is' in condition && condition.is.includes(value)) ||
            ('isNot' in condition && condition.isNot.includes(value)))
      )
    )
  );

async function usesWhere(db: Queryable, uses: (signal: Signal) => boolean): Promise<Use[]> {
  const [alarms, signals, derived, boards, promises] = await Promise.all([
    allAlarms(db),
    allSignals(db),
    allDerived(db),
    allBoards(db),
    objectives.all(db)
  ]);
  return [
    ...alarms
      .filter(({ definition }) => signalsOfAlarm(definition).some(uses))
      .map(({ id, definition: { name } }): Use => ({ kind: 'alarm', id, name })),
    ...derived
      .filter(({ definition }) => uses(definition))
      .map(({ id, name }): Use => ({ kind: 'derived metric', id, name })),
    ...boards
      .filter(({ panels }) => panels.some((panel) => signalsOf(panel).some(uses)))
      .map(({ id, title, sharing }): Use => ({
        kind: 'board',
        id,
        name: sharing.reach === 'private' ? 'a private board' : title
      })),
    ...promises
      .filter(({ value }) => signalsOfObjective(value.of).some(uses))
      .map(({ id, value: { name } }): Use => ({ kind: 'promise', id, name })),
    ...signals.filter(({ definition }) => uses(definition)).map(({ id, name }): Use => ({ kind: 'signal', id, name }))
  ];
}
