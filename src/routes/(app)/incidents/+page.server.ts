import { incidentsIn } from '$server/alarms/incidents';
import { bussola } from '$server/running';
import { resolveRange, shownRangeFrom } from '$lib/core/time';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const all = url.searchParams.has('range') || url.searchParams.has('from');
  const shown = all ? shownRangeFrom(url.searchParams) : shownRangeFrom(new URLSearchParams('range=P14D'));
  return { incidents: await incidentsIn(db, resolveRange(shown, clock.now())) };
};
