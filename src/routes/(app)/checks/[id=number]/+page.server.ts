import { error } from '@sveltejs/kit';
import { attemptsOf, checkById } from '$server/reachability/checks';
import { resourceIdOfCheck } from '$server/reachability/measure-checks';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Remembered attempts that are listed. */
const mostAttempts = 50;

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:checks');
  depends('bussola:overview');
  const { db } = bussola();
  const id = Number(params.id);
  const stored = await checkById(db, id);
  if (stored === null) error(404, { message: 'There is no such check.', remedy: 'See the list of checks.' });
  const [attempts, resourceId] = await Promise.all([attemptsOf(db, id, mostAttempts), resourceIdOfCheck(db, id)]);
  return { stored, attempts, resourceId };
};
