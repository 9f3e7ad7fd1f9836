import { metricNames } from '$server/intake/metrics';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ metrics: await metricNames(bussola().db) });
