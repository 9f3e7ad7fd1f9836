import { costAskedFrom } from '$lib/core/cost';
import { costFindings, costMonth } from '$server/cost/cost-view';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, url }) => {
  depends('bussola:costs');
  const server = bussola();
  const asked = costAskedFrom(url.searchParams);
  const month = await costMonth(server, asked);
  const isBilled = month.oldest !== null;
  return {
    asked,
    month,
    now: server.clock.now(),
    // What takes longer follows the page.
    findings: isBilled ? costFindings(server, { ...month, basis: asked.basis }) : Promise.resolve(null)
  };
};
