import { before, day, times } from '$lib/core/time';
import { openIncidents } from '$server/incidents/open';
import { acknowledgedInTime } from '$server/incidents/response-times';
import { allResources } from '$server/inventory/resources';
import { incidentsByRoute, recentMessages } from '$server/notify/outbox-lists';
import { bussola } from '$server/process/running';
import { allAlarms } from '$server/alarms/alarms';
import { currentShelvings, heldBack } from '$server/shelving/shelvings';
import { allRoutes } from '$server/routing/routes';
import { routingChoices } from '$server/routing/routing-choices';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const since = before(clock.now(), times(30, day));
  const [routes, choices, used, answered, messages, incidents, resources, shelvings, held, alarms] = await Promise.all([
    allRoutes(db),
    routingChoices(db),
    incidentsByRoute(db, since),
    acknowledgedInTime(db, since),
    recentMessages(db, mostMessages),
    openIncidents(db, mostIncidents),
    allResources(db),
    currentShelvings(db),
    heldBack(db),
    allAlarms(db)
  ]);
  return {
    routes: routes.map((route) => ({ ...route, used: used.get(route.id) ?? 0 })),
    choices,
    answered,
    messages,
    incidents: incidents.map(({ id, severity, subject }) => ({ id, severity, subject })),
    resources: resources.map(({ name, account }) => ({ name, account })),
    alarms: alarms.map(({ id, definition: { name } }) => ({ id, name })),
    shelvings: shelvings.map(({ id, shelving, active, createdBy }) => ({
      ...{ id, shelving, active, createdBy },
      held: held.find(({ shelvingId }) => shelvingId === id) ?? { open: 0, clear: 0 }
    }))
  };
};

/** Messages that are shown below the list, and incidents that can be tried. */
const [mostMessages, mostIncidents] = [8, 50];
