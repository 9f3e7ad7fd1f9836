import { error } from '@sveltejs/kit';
import { allChannels } from '$server/notify/channels';
import { bussola } from '$server/process/running';
import { responseChoices } from '$server/responses/response-choices';
import { responseById } from '$server/responses/responses';
import { listRuns } from '$server/responses/runs';
import type { PageServerLoad } from './$types';

/** What it did lately that the page lists. */
const mostRuns = 100;

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:responses');
  depends('bussola:overview');
  const { db } = bussola();
  const found = await responseById(db, Number(params.id));
  if (found === null)
    error(404, { message: 'There is no such response.', remedy: 'It may have been removed. See all responses.' });
  const { personId: _, ...stored } = found;
  const [choices, runs, channels] = await Promise.all([
    responseChoices(db),
    listRuns(db, { responseId: stored.id }, mostRuns),
    allChannels(db)
  ]);
  return { stored, ...choices, runs, channels: Object.fromEntries(channels.map(({ id, name }) => [id, name])) };
};
