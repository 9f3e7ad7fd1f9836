import { metricNames } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ metrics: await metricNames(bussola().db) });
