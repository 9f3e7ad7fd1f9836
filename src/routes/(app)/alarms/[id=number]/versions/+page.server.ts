import { alarmById } from '$server/alarms/alarms';
import { alarmHistory } from '$server/alarms/history';
import { noSuchAlarm } from '$server/alarms/save-alarm';
import { asErrorPage, refusePage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const alarm = await alarmById(db, Number(params.id)).catch(asErrorPage);
  if (alarm === null) refusePage(noSuchAlarm());
  return {
    id: alarm.id,
    name: alarm.definition.name,
    version: alarm.version,
    versions: await alarmHistory(db, alarm.id)
  };
};
