import { slowWork } from '$server/base/slow-work';
import { whatIsSlow } from '$server/observe/what-is-slow';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Of each kind. */
const most = 20;

export const load: PageServerLoad = async ({ url }) => {
  const by = url.searchParams.get('by') === 'longest' ? 'longest' : 'total';
  const lists = await whatIsSlow(bussola(), slowWork, most, by);
  return { by, lists, remembered: slowWork.length } as const;
};
