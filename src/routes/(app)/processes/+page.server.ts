import { processFaults, whichProcesses } from '$server/observe/which-processes';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const { db, duties } = bussola();
  const [processes, faults] = await Promise.all([whichProcesses(bussola()), processFaults(db, duties)]);
  return { processes, faults };
};
