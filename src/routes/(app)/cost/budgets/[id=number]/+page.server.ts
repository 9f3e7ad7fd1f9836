import { error } from '@sveltejs/kit';
import { dateOf, dayAt } from '$lib/core/cost';
import { budgetChoices } from '$server/cost/budget-choices';
import { budgets } from '$server/cost/budgets';
import { bussola } from '$server/process/running';
import { allRoutes } from '$server/routing/routes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:costs');
  depends('bussola:overview');
  const server = bussola();
  const now = server.clock.now();
  const stored = await budgets.byId(server.db, Number(params.id));
  if (stored === null) error(404, budgets.missing());
  const [choices, routes] = await Promise.all([budgetChoices(server, now), allRoutes(server.db)]);
  return {
    ...{ stored, choices, today: dateOf(dayAt(now)) },
    routes: routes.map(({ id, route: { name } }) => ({ id, name }))
  };
};
