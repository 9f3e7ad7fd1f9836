import { redirect } from '@sveltejs/kit';
import { allAccounts } from '$server/inventory/accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** The list stands beside every account, so the page of the first that needs care is the page of all. */
export const load: PageServerLoad = async ({ url }) => {
  const accounts = await allAccounts(bussola().db);
  const first = accounts.find(({ lastError }) => lastError !== null) ?? accounts[0];
  if (first) redirect(303, `/accounts/${first.id}${url.search}`);
};
