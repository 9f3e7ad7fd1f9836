import { error } from '@sveltejs/kit';
import { bussola } from '$server/process/running';
import { channelChoices } from '$server/summary/channel-choices';
import { planById } from '$server/summary/plans';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends, locals }) => {
  depends('bussola:summaries');
  const { db } = bussola();
  const stored = await planById(db, Number(params.id));
  if (stored === null)
    error(404, { message: 'There is no such summary.', remedy: 'It may have been removed. See all summaries.' });
  return { stored, channels: await channelChoices(db, locals.person?.id ?? null, stored.plan.channels) };
};
