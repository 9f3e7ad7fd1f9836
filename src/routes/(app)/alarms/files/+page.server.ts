import { allAlarms } from '$server/alarms/alarms';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ count: (await allAlarms(bussola().db)).length });
