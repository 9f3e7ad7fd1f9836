import { error } from '@sveltejs/kit';
import { pageAccount } from '$server/intake/targets/page-accounts';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
  const account = await pageAccount(bussola().db, Number(params.id));
  if (account === null)
    error(404, { message: 'There is no such account of pages.', remedy: 'Choose one on the page Accounts.' });
  return { id: account.id, name: account.name, definition: account.definition };
};
