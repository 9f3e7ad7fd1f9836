import { costSelectionFrom } from '$lib/core/cost';
import { allBudgets } from '$server/cost/budgets';
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
  const [budgets, routes] = await Promise.all([allBudgets(server.db), allRoutes(server.db)]);
  const standings = await budgetStandings(
    server,
    budgets.map(({ budget }) => budget),
    server.clock.now()
  );
  const isBilled = month.oldest !== null;
  return {
    selection,
    month,
    budgets: budgets.map(({ id, budget }, index) => ({ id, budget, standing: standings[index] ?? null })),
    routes: routes.map(({ id, route: { name } }) => ({ id, name })),
    now: server.clock.now(),
    // What takes longer follows the page.
    findings: isBilled ? costFindings(server, { ...month, basis: selection.basis }) : Promise.resolve(null)
  };
};
