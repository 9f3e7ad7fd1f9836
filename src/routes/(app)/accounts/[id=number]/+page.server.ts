import { jsonOrNull } from '$lib/core/forms/json';
import { isDeepStrictEqual } from 'node:util';
import { error, fail } from '@sveltejs/kit';
import { z } from 'zod';
import { planSchema } from '$lib/core/intake';
import { credentialFormSchema } from '$lib/core/forms/forms';
import { accountById, keepTest, replaceCredential, wantDiscovery } from '$server/inventory/accounts';
import { accountRows } from '$server/intake/pull/account-view';
import { coverageOf } from '$server/intake/plan/coverage';
import { enableGuests } from '$server/intake/pull/guests';
import { accessOf, accessToTest, providerOf } from '$server/intake/ledger/intake';
import { keepPlan, keepPrice, planOf } from '$server/intake/plan/plans';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:accounts');
  const server = bussola();
  const accounts = await accountRows(server);
  const selected = accounts.find(({ id }) => id === Number(params.id));
  if (!selected) error(404, { message: 'There is no such account.', remedy: 'Choose one on the page Accounts.' });
  const { services } = await coverageOf(server, selected);
  const provider = server.providers[selected.provider];
  return { accounts, selected, services, guide: provider?.guide ?? null };
};

/** The account of a request, or null. */
const accountOf = (id: string) => accountById(bussola().db, Number(id));
const gone = () => fail(404, { problem: 'There is no such account.' });

export const actions = {
  /** Tries the credential and keeps what came of it. */
  test: async ({ params }) => {
    const server = bussola();
    const account = await accountOf(params.id);
    if (account === null) return gone();
    const access = accessToTest(server.guards, await accessOf(server, account));
    const checks = await providerOf(server.providers, account).testAccess(access);
    await keepTest(server.db, account.id, { at: server.clock.now(), checks });
    server.changes.tell('account', { accountId: account.id });
  },
  /** Puts another credential in place, once it has been seen to work; pulls go on without a gap. */
  credential: async ({ params, request }) => {
    const server = bussola();
    const account = await accountOf(params.id);
    if (account === null) return gone();
    const read = credentialFormSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!read.success) return fail(400, { problem: read.error.issues[0]?.message ?? 'Give both.' });
    const checks = await providerOf(server.providers, account).testAccess(
      accessToTest(server.guards, { ...read.data, endpoint: account.endpoint })
    );
    if (checks.slice(0, 3).some(({ passed }) => !passed))
      return fail(400, { problem: 'The new credential was not accepted, so the old one stays.', tried: checks });
    const at = server.clock.now();
    await replaceCredential(
      server.db,
      account.id,
      { keyId: read.data.keyId, sealedSecret: server.secrets.seal(read.data.secret) },
      at
    );
    await keepTest(server.db, account.id, { at, checks });
    await wantDiscovery(server.db, account.id);
    return { done: 'The new credential is in place.' };
  },
  /** Looks for resources now. */
  discover: async ({ params }) => {
    await wantDiscovery(bussola().db, Number(params.id));
    return { done: 'Bussola looks for resources.' };
  },
  /** Keeps the plan of a service. */
  plan: async ({ params, request, locals }) => {
    const { db, clock } = bussola();
    const account = await accountOf(params.id);
    if (account === null) return gone();
    const form = await request.formData();
    const read = planFormSchema.safeParse({ service: form.get('service'), plan: jsonOrNull(textIn(form, 'plan')) });
    if (!read.success)
      return fail(400, {
        problem: read.error.issues.map(({ path, message }) => `${path.slice(1).join('.')}: ${message}`).join(' ')
      });
    const before = await planOf(db, account.id, read.data.service);
    if (locals.person?.role !== 'administrator' && !isDeepStrictEqual(before.keep, read.data.plan.keep))
      return fail(403, {
        problem:
          'How long samples are kept belongs to administrators. The plan was not changed: leave retention as it was, or ask one.'
      });
    await keepPlan(db, account.id, read.data.service, read.data.plan, locals.person?.displayName ?? '', clock.now());
    return { done: 'The plan is kept.' };
  },
  /** What a thousand requests cost at this provider. */
  price: async ({ params, request, locals }) => {
    const { db, clock } = bussola();
    const account = await accountOf(params.id);
    if (account === null) return gone();
    const read = z.coerce
      .number()
      .min(0)
      .max(1e6)
      .safeParse((await request.formData()).get('price'));
    if (!read.success) return fail(400, { problem: 'Give a price from 0 on.' });
    await keepPrice(db, account.provider, read.data, locals.person?.displayName ?? '', clock.now());
    return { done: 'The price is kept.' };
  },
  /** Switches guest-level metrics on for every resource of a service, through the provider. */
  guests: async ({ params, request }) => {
    const server = bussola();
    const account = await accountOf(params.id);
    if (account === null) return gone();
    const service = (await request.formData()).get('service');
    const { switched, problem } = await enableGuests(server, account, ({ service: of }) => of === service);
    return problem === null ? { done: `Switched on for ${switched}.` } : fail(400, { problem });
  }
} satisfies Actions;

const planFormSchema = z.object({ service: z.string().min(1).max(60), plan: planSchema });

function textIn(form: FormData, name: string): string {
  const given = form.get(name);
  return typeof given === 'string' ? given : '';
}
