import { summaryKinds, type SummaryPlan } from '$lib/core/summary';
import { readerDates } from '$server/http/reader-dates';
import { bussola } from '$server/process/running';
import { channelChoices } from '$server/summary/channel-choices';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals }) => {
  const kind = summaryKinds.find((one) => one === url.searchParams.get('kind')) ?? 'week';
  const given: SummaryPlan = {
    name: '',
    enabled: true,
    kind,
    at: '08:00',
    zone: readerDates(locals.person).zone,
    channels: []
  };
  return { given, channels: await channelChoices(bussola().db, locals.person?.id ?? null, []) };
};
