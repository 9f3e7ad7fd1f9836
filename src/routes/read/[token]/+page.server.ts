import { periodTitle } from '$lib/core/summary';
import { countMiss } from '$server/boards/link-limits';
import { asErrorPage, refusePage } from '$server/http/pages';
import { chosenNight } from '$server/http/theme';
import { bussola } from '$server/process/running';
import { noSuchSummaryLink, summaryOfToken } from '$server/summary/summary-links';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, cookies, locals }) => {
  const server = bussola();
  const found = await summaryOfToken(server, params.token, server.clock.now());
  if (found === null) {
    await countMiss(locals.address).catch(asErrorPage);
    refusePage(noSuchSummaryLink());
  }
  const { name, summary, linkUntil } = found;
  return {
    ...{ token: params.token, name, summary, linkUntil, now: server.clock.now(), night: chosenNight(cookies) },
    title: periodTitle(summary.kind, summary, summary.zone)
  };
};
