import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { idFrom, idSchema } from '$lib/core/forms/id';
import { planSchema, usualPlan } from '$lib/core/intake';
import { accountById, allAccounts } from '$server/inventory/accounts';
import { coverageOf } from '$server/intake/plan/coverage';
import { enableGuests } from '$server/intake/pull/guests';
import { savePlan, planOf } from '$server/intake/plan/plans';
import { chooseResources, resourcesByAccount } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:accounts');
  const server = bussola();
  const accounts = await allAccounts(server.db);
  const account = idFrom(url.searchParams.get('account'));
  const service = url.searchParams.get('service');
  const covered = await Promise.all(
    accounts.filter(({ id }) => account === null || id === account).map((one) => coverageOf(server, one))
  );
  return {
    accounts: accounts.map(({ id, name }) => ({ id, name })),
    account,
    service,
    services: [...new Set(covered.flatMap(({ services }) => services.map((one) => one.service)))],
    resources: covered
      .flatMap(({ resources }) => resources)
      .filter((one) => service === null || one.service === service)
  };
};

const chosenSchema = z.object({
  ids: z.array(z.coerce.number().pipe(idSchema)).min(1, { error: 'Choose at least one resource.' }).max(20_000),
  word: z.enum(['on', 'off', 'plan'])
});

export const actions = {
  /** Switches chosen resources on or off, or lets them follow the plan again. */
  choose: async ({ request }) => {
    const { db, changes } = bussola();
    const form = await request.formData();
    const read = chosenSchema.safeParse({ ids: form.getAll('id'), word: form.get('word') });
    if (!read.success) return fail(400, { problem: read.error.issues[0]?.message ?? 'Choose at least one resource.' });
    const { ids, word } = read.data;
    for (const [accountId, own] of await resourcesByAccount(db, ids)) {
      await chooseResources(db, accountId, own, word === 'plan' ? null : word === 'on');
      changes.tell('account', { accountId });
    }
    return { done: `${ids.length} changed.` };
  },
  /** A whole service, with what appears later or without. */
  service: async ({ request, locals }) => {
    const { db, clock, changes } = bussola();
    const form = await request.formData();
    const read = z
      .object({
        account: z.coerce.number().pipe(idSchema),
        service: z.string().min(1).max(60),
        collect: planSchema.shape.collect
      })
      .safeParse(Object.fromEntries(form));
    if (!read.success || (await accountById(db, read.data.account)) === null)
      return fail(400, { problem: 'There is no such service.' });
    const { account, service, collect } = read.data;
    const plan = { ...usualPlan, ...(await planOf(db, account, service)), collect };
    await savePlan(db, account, service, plan, locals.person?.displayName ?? '', clock.now());
    changes.tell('account', { accountId: account });
    return { done: 'The plan is saved.' };
  },
  /** Switches guest-level metrics on for chosen resources, through their provider. */
  guests: async ({ request }) => {
    const server = bussola();
    const read = chosenSchema.shape.ids.safeParse((await request.formData()).getAll('id'));
    if (!read.success) return fail(400, { problem: 'Choose at least one resource.' });
    let switched = 0;
    for (const [accountId, own] of await resourcesByAccount(server.db, read.data)) {
      const account = await accountById(server.db, accountId);
      if (account === null) continue;
      const result = await enableGuests(server, account, ({ id }) => own.includes(id));
      switched += result.switched;
      if (result.problem !== null) return fail(400, { problem: result.problem });
    }
    return {
      done: switched === 0 ? 'None of them has guest-level metrics that are off.' : `Switched on for ${switched}.`
    };
  }
} satisfies Actions;
