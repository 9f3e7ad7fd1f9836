import { alarmChoices } from '$server/alarms/draft';
import { recommendations } from '$server/alarms/recommended';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const { db } = bussola();
  const [all, choices] = await Promise.all([recommendations(db), alarmChoices({ db })]);
  return { all, choices };
};
