import { costSelectionFrom, dateOf, dayAt } from '$lib/core/cost';
import { budgetChoices } from '$server/cost/budget-choices';
import { costSettings } from '$server/cost/cost-settings';
import { bussola } from '$server/process/running';
import { allRoutes } from '$server/routing/routes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
  const server = bussola();
  const now = server.clock.now();
  const [choices, routes, { currency }] = await Promise.all([
    budgetChoices(server, now),
    allRoutes(server.db),
    costSettings(server.db)
  ]);
  return {
    choices,
    currency,
    // As the costs that were looked at are narrowed.
    filters: costSelectionFrom(url.searchParams).filters,
    routes: routes.map(({ id, route: { name } }) => ({ id, name })),
    today: dateOf(dayAt(now))
  };
};
