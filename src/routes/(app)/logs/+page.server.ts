import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const { streams } = await bussola().logs.logs.size();
  return { hasLines: streams > 0 };
};
