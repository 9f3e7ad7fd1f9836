import { targetsOf } from '$lib/core/notify/route';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { noSuchRota } from '../rotas/manage-rotas';
import { deleteRota } from '../rotas/rotas';
import { allRoutes } from './routes';

/** Removes a rota with its overrides. @throws Refusal `in-use` naming the routes that lead to it, `not-found` */
export async function removeRota({ db, changes }: Context, id: number): Promise<void> {
  const users = (await allRoutes(db))
    .filter(({ route }) => targetsOf(route).some((target) => target.kind === 'rota' && target.rotaId === id))
    .map(({ route }) => `the route ${route.name}`);
  if (users.length > 0) throw new Refusal('in-use', `It is used by ${users.join(', ')}.`, 'Take it out of them first.');
  if (!(await deleteRota(db, id))) throw noSuchRota();
  changes.tell('routing', {});
}
