import { allRoutes } from '$server/routing/routes';
import { listAlarms, unwatchedResources } from '$server/alarms/list';
import { recommendations } from '$server/alarms/recommended';
import { unreadableAlarms } from '$server/alarms/alarms';
import { darkAccounts } from '$server/intake/own/dark-accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db, clock, providers } = bussola();
  const now = clock.now();
  const dark = await darkAccounts(db, providers, now);
  const [alarms, routes, unwatched, unreadable, recommended] = await Promise.all([
    listAlarms(db, now, dark),
    allRoutes(db),
    unwatchedResources(db),
    unreadableAlarms(db),
    recommendations(db)
  ]);
  return {
    alarms,
    routes: routes.map(({ id, route }) => ({ id, name: route.name })),
    unwatched,
    recommended: [...new Set(recommended.map(({ service }) => service))],
    unreadable: unreadable.map(({ message }) => message),
    now
  };
};
