import { after, before, dateAfter, dateAt, day, firstInstantAt, times, weekdayOf } from '$lib/core/time';
import { isDate } from '$server/http/fixed-day';
import { openIncidents } from '$server/incidents/open';
import { allResources } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import { routingChoices } from '$server/routing/routing-choices';
import { calendarLinks } from '$server/rotas/calendar-links';
import { nightsSince } from '$server/rotas/load';
import { whoHasTheWatch } from '$server/rotas/on-call';
import { allRotas, openSwaps, overridesIn } from '$server/rotas/rotas';
import type { PageServerLoad } from './$types';

/** Days that the calendar shows, and those whose disturbed nights are counted. */
const [shownDays, loadDays] = [14, 90];
const mostIncidents = 50;

export const load: PageServerLoad = async ({ depends, url, locals }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const now = clock.now();
  const zone = locals.person?.zone ?? 'UTC';
  const asked = url.searchParams.get('week');
  const today = dateAt(now, zone);
  const first = isDate(asked) ? asked : dateAfter(today, 1 - weekdayOf(today));
  const from = firstInstantAt(first, '00:00', zone);
  const within = { from, to: firstInstantAt(dateAfter(first, shownDays), '00:00', zone) };
  const [rotas, overrides, swaps, onCall, nights, choices, links, incidents, resources] = await Promise.all([
    allRotas(db),
    overridesIn(db, { from: before(within.from, day), to: after(within.to, day) }),
    openSwaps(db, now),
    whoHasTheWatch(db, now),
    nightsSince(db, before(now, times(loadDays, day))),
    routingChoices(db),
    calendarLinks(db),
    openIncidents(db, mostIncidents),
    allResources(db)
  ]);
  return {
    ...{ first, within, rotas, overrides, swaps, onCall, nights, choices },
    links: links.filter(({ personId }) => personId === null || personId === locals.person?.id),
    incidents: incidents.map(({ id, severity, subject }) => ({ id, severity, subject })),
    resources: resources.map(({ name, account }) => ({ name, account })),
    next: dateAfter(first, shownDays),
    previous: dateAfter(first, -shownDays)
  };
};
