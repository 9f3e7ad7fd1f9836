import { redirect } from '@sveltejs/kit';
import { idSchema } from '$lib/core/forms/id';
import { refusalOfForm } from '$lib/core/forms/problems';
import { orProblem } from '$server/http/pages';
import { removeAccount } from '$server/intake/pull/remove-account';
import { allAccounts, removedAccounts } from '$server/inventory/accounts';
import { bussola } from '$server/process/running';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/** The list stands beside every account, so the page of the first that needs care is the page of all. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:accounts');
  const { db } = bussola();
  const accounts = await allAccounts(db);
  const first = accounts.find(({ lastError }) => lastError !== null) ?? accounts[0];
  if (first) redirect(303, `/accounts/${first.id}${url.search}`);
  return { removed: await removedAccounts(db) };
};

export const actions = {
  /** Erases the history of an account that was removed. */
  erase: ({ request, locals: { person } }) =>
    orProblem(async () => {
      const read = z.coerce
        .number()
        .pipe(idSchema)
        .safeParse((await request.formData()).get('id'));
      if (!read.success) throw refusalOfForm(read.error);
      await removeAccount(bussola(), read.data, { erase: true, by: person?.displayName ?? '' });
      return {};
    })
} satisfies Actions;
