import { costSelectionFrom } from '$lib/core/cost';
import { budgets } from '$server/cost/budgets';
import { budgetStandings } from '$server/cost/budget-standings';
import { costFindings, costMonth } from '$server/cost/cost-view';
import { bussola } from '$server/process/running';
import { allRoutes } from '$server/routing/routes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, url }) => {
  depends('bussola:costs');
  const server = bussola();
  const selection = costSelectionFrom(url.searchParams);
  const month = await costMonth(server, selection);
  const [all, routes] = await Promise.all([budgets.all(server.db), allRoutes(server.db)]);
  const standings = await budgetStandings(
    server,
    all.map(({ value }) => value),
    server.clock.now()
  );
  const isBilled = month.oldest !== null;
  return {
    selection,
    month,
    budgets: all.map(({ id, value: budget }, index) => ({ id, budget, standing: standings[index] ?? null })),
    routes: routes.map(({ id, route: { name } }) => ({ id, name })),
    now: server.clock.now(),
    // What takes longer follows the page.
    findings: isBilled ? costFindings(server, { ...month, basis: selection.basis }) : Promise.resolve(null)
  };
};
