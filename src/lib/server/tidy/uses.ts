import { targetsOf, type Route } from '$lib/core/notify/route';
import type { AutoResponse } from '$lib/core/response';
import type { Queryable } from '../db/pool';
import { alarmById, allAlarms } from '../alarms/alarms';
import { usesOfBoard } from '../boards/links';
import { usesOfMetric, usesOfValue, type Use } from '../boards/signal-uses';
import { allFollowers } from '../followers/followers';
import { budgets } from '../cost/budgets';
import { accountById } from '../inventory/accounts';
import { objectives } from '../objective/objectives';
import { allDerived } from '../query/derived/derived';
import { allGroups } from '../query/groups/groups';
import { allRotas } from '../rotas/rotas';
import { allRoutes } from '../routing/routes';
import { allResponses } from '../responses/responses';
import { allPlans } from '../summary/plans';
import { currentShelvings } from '../shelving/shelvings';

/** What can be asked for who uses it. */
export const usedKinds = [
  'channel',
  'route',
  'rota',
  'person',
  'group',
  'account',
  'alarm',
  'derived',
  'signal',
  'board'
] as const;
export type UsedKind = (typeof usedKinds)[number];

/** Something that names another. */
export interface UseOfAny extends Omit<Use, 'kind'> {
  readonly kind:
    Use['kind'] | 'route' | 'budget' | 'rota' | 'shelving' | 'response' | 'summary' | 'link' | 'mark' | 'follower';
}

/**
 * What uses something: whatever names it, and would lose it if it were removed.
 *
 * @example await usesOf(db, 'channel', 3) // [{ kind: 'route', id: 1, name: 'Data, grave' }]
 */
export async function usesOf(db: Queryable, kind: UsedKind, id: number): Promise<UseOfAny[]> {
  switch (kind) {
    case 'channel':
      return [
        ...(await routesWhere(db, (route) =>
          targetsOf(route).some((one) => one.kind === 'channel' && one.channelId === id)
        )),
        ...(await responsesWhere(db, ({ action }) => action.kind === 'webhook' && action.channelId === id)),
        ...(await allPlans(db))
          .filter(({ plan }) => plan.channels.includes(id))
          .map((one): UseOfAny => ({ kind: 'summary', id: one.id, name: one.plan.name })),
        ...(await allFollowers(db))
          .filter(({ follower }) => follower.channelId === id)
          .map((one): UseOfAny => ({ kind: 'follower', id: one.id, name: one.name }))
      ];
    case 'rota':
      return routesWhere(db, (route) => targetsOf(route).some((one) => one.kind === 'rota' && one.rotaId === id));
    case 'person':
      return [
        ...(await routesWhere(db, (route) =>
          targetsOf(route).some((one) => one.kind === 'person' && one.personId === id)
        )),
        ...(await allRotas(db))
          .filter(({ rota }) => rota.layers.some(({ people }) => people.includes(id)))
          .map((one): UseOfAny => ({ kind: 'rota', id: one.id, name: one.rota.name }))
      ];
    case 'route':
      return usesOfRoute(db, id);
    case 'group': {
      const group = (await allGroups(db)).find((one) => one.id === id);
      return [
        ...(await routesWhere(db, ({ when }) => when.groupIds.includes(id))),
        ...(await shelvingsWhere(db, ({ groupIds }) => groupIds.includes(id))),
        ...(await responsesWhere(db, ({ limits }) => limits.group?.groupId === id)),
        ...(group === undefined ? [] : await usesOfValue(db, 'group', group.name))
      ];
    }
    case 'account': {
      const account = await accountById(db, id);
      if (account === null) return [];
      return [
        ...(await routesWhere(db, ({ when }) => when.accounts.includes(account.name))),
        ...(await shelvingsWhere(db, ({ accounts }) => accounts.includes(account.name))),
        ...(await usesOfValue(db, 'account', account.name))
      ];
    }
    case 'alarm':
      return usesOfAlarm(db, id);
    case 'derived': {
      const derived = (await allDerived(db)).find((one) => one.id === id);
      return derived === undefined ? [] : usesOfMetric(db, derived.name);
    }
    case 'signal':
      return []; // boards and alarms have copies of their own
    case 'board':
      return usesOfBoard(db, id);
    default:
      throw new TypeError(`usesOf: unknown ${JSON.stringify(kind satisfies never)}`);
  }
}

const routesWhere = async (db: Queryable, uses: (route: Route) => boolean): Promise<UseOfAny[]> =>
  (await allRoutes(db))
    .filter(({ route }) => uses(route))
    .map(({ id, route: { name } }): UseOfAny => ({ kind: 'route', id, name }));

const responsesWhere = async (db: Queryable, uses: (response: AutoResponse) => boolean): Promise<UseOfAny[]> =>
  (await allResponses(db))
    .filter(({ response }) => uses(response))
    .map(({ id, response: { name } }): UseOfAny => ({ kind: 'response', id, name }));

type Scope = Awaited<ReturnType<typeof currentShelvings>>[number]['shelving']['scope'];
const shelvingsWhere = async (db: Queryable, uses: (scope: Scope) => boolean): Promise<UseOfAny[]> =>
  (await currentShelvings(db))
    .filter(({ shelving }) => uses(shelving.scope))
    .map(({ id, shelving: { reason } }): UseOfAny => ({ kind: 'shelving', id, name: reason }));

/** Alarms, budgets and promises that name a route; of the last two, their alarms are not named again. */
async function usesOfRoute(db: Queryable, id: number): Promise<UseOfAny[]> {
  const [alarms, ofBudgets, ofPromises] = await Promise.all([allAlarms(db), budgets.all(db), objectives.all(db)]);
  const named = { budget: ofBudgets, promise: ofPromises };
  const followed = new Set([...ofBudgets, ...ofPromises].map(({ alarmId }) => alarmId));
  return [
    ...alarms
      .filter((one) => one.definition.route === id && !followed.has(one.id))
      .map((one): UseOfAny => ({ kind: 'alarm', id: one.id, name: one.definition.name })),
    ...(['budget', 'promise'] as const).flatMap((kind) =>
      named[kind]
        .filter(({ value }) => value.route === id)
        .map((one): UseOfAny => ({ kind, id: one.id, name: one.value.name }))
    )
  ];
}

/** Alarms that have one as a part, shelvings of it, and the budget or promise that it follows. */
async function usesOfAlarm(db: Queryable, id: number): Promise<UseOfAny[]> {
  if ((await alarmById(db, id)) === null) return [];
  const [alarms, ofBudgets, ofPromises, shelvings, ofResponses] = await Promise.all([
    allAlarms(db),
    budgets.all(db),
    objectives.all(db),
    shelvingsWhere(db, ({ alarmIds }) => alarmIds.includes(id)),
    responsesWhere(db, ({ alarmId }) => alarmId === id)
  ]);
  return [
    ...alarms
      .filter(({ definition: { combines } }) =>
        (combines?.parts ?? []).some((part) => 'alarm' in part && part.alarm === id)
      )
      .map((one): UseOfAny => ({ kind: 'alarm', id: one.id, name: one.definition.name })),
    ...ofBudgets
      .filter(({ alarmId }) => alarmId === id)
      .map((one): UseOfAny => ({ kind: 'budget', id: one.id, name: one.value.name })),
    ...ofPromises
      .filter(({ alarmId }) => alarmId === id)
      .map((one): UseOfAny => ({ kind: 'promise', id: one.id, name: one.value.name })),
    ...shelvings,
    ...ofResponses
  ];
}
