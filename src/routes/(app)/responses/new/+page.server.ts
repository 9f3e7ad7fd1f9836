import { idFrom } from '$lib/core/forms/id';
import { bussola } from '$server/process/running';
import { responseChoices } from '$server/responses/response-choices';
import type { PageServerLoad } from './$types';

/** A response that is begun: to an alarm where the address names one. */
export const load: PageServerLoad = async ({ url }) => {
  const { db } = bussola();
  const choices = await responseChoices(db);
  const wanted = idFrom(url.searchParams.get('alarm'));
  return { ...choices, alarmId: choices.alarms.find(({ id }) => id === wanted)?.id ?? 0 };
};
