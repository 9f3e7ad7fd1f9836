import { error } from '@sveltejs/kit';
import { periodTitle } from '$lib/core/summary';
import { bussola } from '$server/process/running';
import { linkOf } from '$server/summary/enclose-summary';
import { summaryById } from '$server/summary/summaries';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:summaries');
  const server = bussola();
  const found = await summaryById(server.db, Number(params.id));
  if (found === null)
    error(404, { message: 'There is no such summary.', remedy: 'It may be older than is stored. See all summaries.' });
  const { id, name, summary, madeAt, madeBy, linkUntil } = found;
  return {
    ...{ id, name, summary, madeAt, madeBy, linkUntil, link: linkOf(server, found) },
    title: periodTitle(summary.kind, summary, summary.zone)
  };
};
