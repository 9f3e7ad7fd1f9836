import { targetsOf, type Route } from '$lib/core/notify/route';
import { Refusal } from '$lib/core/problem/problem';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { allAlarms } from '../alarms/alarms';
import { noteRerouted } from '../incidents/events';
import { routingChoices } from '../routing/routing-choices';
import {
  allRoutes,
  changeRoute,
  deleteRoute,
  insertRoute,
  isListed,
  lockRoutes,
  orderRoutes,
  routeById,
  type NewPlace,
  type StoredRoute
} from '../routing/routes';
import { openOnlyBy } from './threads';

/** Routes that a workspace may have. */
const mostRoutes = 200;

/** Adds a route: at the end of the list, as the last one of all, or for alarms that name it. @throws Refusal `invalid` for what it names that is not there, `name-taken` */
export async function addRoute(
  { db, clock, changes }: Context,
  route: Route,
  place: NewPlace,
  by: string
): Promise<StoredRoute> {
  await refuseUnknown(db, route);
  const made = await db.transaction(async (within) => {
    await lockRoutes(within);
    const all = await allRoutes(within);
    refuseSameName(all, route, null);
    if (place === 'last' && all.some(({ isLast }) => isLast))
      throw new Refusal('name-taken', 'There is a last route already.', 'Change that one.');
    if (all.length >= mostRoutes)
      throw new Refusal('invalid', `There are ${mostRoutes} routes, which is the most.`, 'Remove one first.');
    return insertRoute(within, route, place, { at: clock.now(), by });
  });
  changes.tell('routing', {});
  return made;
}

/** Changes a route, which counts from the next message on. @throws Refusal as {@link addRoute}, `not-found`, `changed-meanwhile` */
export async function saveRoute(
  { db, clock, changes }: Context,
  id: number,
  route: Route,
  version: number,
  by: string
): Promise<StoredRoute> {
  await refuseUnknown(db, route);
  const saved = await db.transaction(async (within) => {
    await lockRoutes(within);
    refuseSameName(await allRoutes(within), route, id);
    return changeRoute(within, id, route, version, { at: clock.now(), by });
  });
  if (saved === null) throw changedMeanwhile(await routeById(db, id), 'route', noSuchRoute);
  changes.tell('routing', {});
  return saved;
}

/** Puts the list in an order. @param ids of all routes of the list but the last one @throws Refusal `changed-meanwhile` when these are others */
export async function reorderRoutes({ db, changes }: Context, ids: readonly number[]): Promise<StoredRoute[]> {
  const ordered = await db.transaction(async (within) => {
    await lockRoutes(within);
    const known = (await allRoutes(within)).filter((one) => isListed(one) && !one.isLast).map(({ id }) => id);
    if (known.length !== ids.length || known.some((id) => !ids.includes(id)))
      throw new Refusal('changed-meanwhile', 'Routes were added or removed meanwhile.', 'Look at the list again.');
    await orderRoutes(within, ids);
    return allRoutes(within);
  });
  changes.tell('routing', {});
  return ordered;
}

/** Removes a route. Open incidents that it had are routed anew. @throws Refusal `in-use` naming the alarms that name it, `not-found` */
export async function removeRoute({ db, clock, changes }: Context, id: number): Promise<void> {
  const users = (await allAlarms(db)).filter(({ definition }) => definition.route === id);
  if (users.length > 0)
    throw new Refusal(
      'in-use',
      `These alarms name the route: ${users.map(({ definition }) => definition.name).join(', ')}.`,
      'Leave them to the list, or choose another route for them.'
    );
  await db.transaction(async (within) => {
    const open = await openOnlyBy(within, id);
    if (!(await deleteRoute(within, id))) throw noSuchRoute();
    await noteRerouted(within, open, clock.now());
  });
  changes.tell('routing', {});
}

/** @throws Refusal `invalid` naming what a route refers to that is not there */
async function refuseUnknown(db: Queryable, route: Route): Promise<void> {
  const { channels, people, rotas, groups } = await routingChoices(db);
  const has = (all: readonly { readonly id: number }[], id: number) => all.some((one) => one.id === id);
  const isThere = targetsOf(route).every((target) => {
    if (target.kind === 'channel') return has(channels, target.channelId);
    return target.kind === 'person' ? has(people, target.personId) : has(rotas, target.rotaId);
  });
  if (!isThere)
    throw new Refusal('invalid', 'Somebody who is to be notified is not there any more.', 'Choose again.', {
      path: ['steps']
    });
  if (!route.when.groupIds.every((id) => has(groups, id)))
    throw new Refusal('invalid', 'A group of the condition is not there any more.', 'Choose again.', {
      path: ['when']
    });
}

function refuseSameName(all: readonly StoredRoute[], { name }: Route, id: number | null): void {
  if (all.some((one) => one.id !== id && one.route.name === name))
    throw new Refusal('name-taken', `There is a route called “${name}” already.`, 'Choose another name.', {
      path: ['name']
    });
}

const noSuchRoute = (): Refusal =>
  new Refusal('not-found', 'There is no such route.', 'It may have been removed. See the list of routes.');
