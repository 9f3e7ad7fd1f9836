import { countOpen, incidentsIn, openIncidents } from '$server/incidents/incidents';
import { idFrom } from '$lib/core/forms/id';
import { bussola } from '$server/process/running';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import type { PageServerLoad } from './$types';

/** Open incidents on one page, and incidents of the range that are listed. */
const perPage = 100;
const mostClosed = 500;

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const all = url.searchParams.has('range') || url.searchParams.has('from');
  const shown = all ? shownRangeFrom(url.searchParams) : shownRangeFrom(new URLSearchParams('range=P14D'));
  const page = idFrom(url.searchParams.get('page')) ?? 1;
  const [open, counted, recent] = await Promise.all([
    openIncidents(db, perPage, (page - 1) * perPage),
    countOpen(db),
    incidentsIn(db, resolveRange(shown, clock.now()), mostClosed)
  ]);
  return {
    open,
    openInAll: counted.reduce((sum, { count }) => sum + count, 0),
    page,
    perPage,
    closed: recent.filter(({ closedAt }) => closedAt !== null),
    isCut: recent.length === mostClosed
  };
};
