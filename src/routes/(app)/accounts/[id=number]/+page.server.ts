import { jsonOrNull } from '$lib/core/forms/json';
import { error, fail, redirect } from '@sveltejs/kit';
import { z } from 'zod';
import { planSchema } from '$lib/core/intake';
import { hasRights } from '$lib/core/people/rights';
import { credentialFormSchema } from '$lib/core/forms/forms';
import { usesOfValue } from '$server/boards/signal-uses';
import { removedAccounts, wantDiscovery } from '$server/inventory/accounts';
import { orProblem } from '$server/http/pages';
import { refusalOfForm } from '$lib/core/forms/problems';
import { changeCredential, existingAccount, isAccepted, testAccount } from '$server/intake/pull/connect';
import { lineCoverage } from '$server/logs/feeds/line-coverage';
import { removeAccount } from '$server/intake/pull/remove-account';
import { changePlan } from '$server/intake/plan/change-plan';
import { accountRows } from '$server/intake/pull/account-view';
import { coverageOf } from '$server/intake/plan/coverage';
import { enableGuests } from '$server/intake/pull/guests';
import { savePrice } from '$server/intake/plan/plans';
import type { Targets } from '$lib/core/targets';
import { pageAccount } from '$server/intake/targets/page-accounts';
import { targetStates } from '$server/intake/targets/target-states';
import { pagesProvider } from '$server/inventory/self-described';
import { resourcesOfAccount } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends, locals: { person } }) => {
  depends('bussola:accounts');
  const server = bussola();
  const accounts = await accountRows(server);
  const selected = accounts.find(({ id }) => id === Number(params.id));
  if (!selected) error(404, { message: 'There is no such account.', remedy: 'Choose one on the page Accounts.' });
  const [{ services }, lines] = await Promise.all([coverageOf(server, selected), lineCoverage(server, selected)]);
  const provider = server.providers[selected.provider];
  const isPages = selected.provider === pagesProvider;
  const pages = isPages ? await pageAccount(server.db, selected.id) : null;
  const targets = isPages ? await targetStates(server.db, selected.id) : null;
  const resources = isPages ? await resourcesOfAccount(server.db, selected.id) : [];
  const [removed, uses] = await Promise.all([
    removedAccounts(server.db),
    // For those who may remove it.
    person && hasRights(person.role, 'administrator') ? usesOfValue(server.db, 'account', selected.name) : []
  ]);
  return {
    ...{ accounts, selected, services, lines, removed, uses },
    guide: provider?.guide ?? null,
    /** Of an account of OpenMetrics pages: its pages, and the resources that they are. */
    targets,
    /** Where they are listed; null within the account itself. */
    listedAt: pages === null ? null : listPlace(pages.definition.find),
    everySeconds: pages?.definition.everySeconds ?? 0,
    targetResources: Object.fromEntries(resources.map(({ name, id }) => [name, id])),
    lineCost: {
      requestsPerFeed: provider?.requestsPerFeed ?? 0,
      perGigabyte: provider?.pricePerGigabyteOfLines ?? 0
    }
  };
};

const listPlace = (find: Targets['find']): string | null =>
  find.by === 'list' ? null : find.by === 'http' ? find.url : find.file;

export const actions = {
  /** Tests the credential and notes the result. */
  test: ({ params }) =>
    orProblem(async () => {
      await testAccount(bussola(), Number(params.id));
      return {};
    }),
  /** Replaces the credential, once it has been seen to work; pulls go on without a gap. */
  credential: ({ params, request }) =>
    orProblem(async () => {
      const read = credentialFormSchema.safeParse(Object.fromEntries(await request.formData()));
      if (!read.success) throw refusalOfForm(read.error);
      const tried = await changeCredential(bussola(), Number(params.id), read.data);
      return isAccepted(tried)
        ? { done: 'The new credential is in place.' }
        : fail(422, { problem: 'The new credential was not accepted, so the old one stays.', tried });
    }),
  /** Removes the account, with its history or without. */
  remove: async ({ params, request, locals: { person } }) => {
    const failed = await orProblem(async () => {
      const read = historySchema.safeParse((await request.formData()).get('history'));
      if (!read.success) throw refusalOfForm(read.error);
      const by = person?.displayName ?? '';
      await removeAccount(bussola(), Number(params.id), { erase: read.data === 'erase', by });
      return null;
    });
    return failed ?? redirect(303, '/accounts');
  },
  /** Looks for resources now. */
  discover: async ({ params }) => {
    await wantDiscovery(bussola().db, Number(params.id));
    return { done: 'Bussola looks for resources.' };
  },
  /** Saves the plan of a service. */
  plan: ({ params, request, locals: { person } }) =>
    orProblem(async () => {
      const server = bussola();
      const { id: accountId } = await existingAccount(server, Number(params.id));
      const form = await request.formData();
      const read = planFormSchema.safeParse({ service: form.get('service'), plan: jsonOrNull(textIn(form, 'plan')) });
      if (!read.success) throw refusalOfForm(read.error);
      await changePlan(server, { accountId, ...read.data }, person ?? { displayName: '', role: 'viewer' });
      return { done: 'The plan is saved.' };
    }),
  /** What a thousand requests cost at this provider. */
  price: ({ params, request, locals }) =>
    orProblem(async () => {
      const server = bussola();
      const { provider } = await existingAccount(server, Number(params.id));
      const read = priceSchema.safeParse((await request.formData()).get('price'));
      if (!read.success) throw refusalOfForm(read.error);
      await savePrice(server.db, provider, read.data, locals.person?.displayName ?? '', server.clock.now());
      return { done: 'The price is saved.' };
    }),
  /** Switches guest-level metrics on for every resource of a service, through the provider. */
  guests: ({ params, request }) =>
    orProblem(async () => {
      const server = bussola();
      const account = await existingAccount(server, Number(params.id));
      const service = (await request.formData()).get('service');
      const { switched, problem } = await enableGuests(server, account, ({ service: of }) => of === service);
      return problem === null ? { done: `Switched on for ${switched}.` } : fail(400, { problem });
    })
} satisfies Actions;

const historySchema = z.enum(['keep', 'erase'], { error: 'Choose whether its history stays.' });
const planFormSchema = z.object({ service: z.string().min(1).max(60), plan: planSchema });
const priceSchema = z.coerce.number({ error: 'Give a price.' }).min(0, { error: 'Give a price from 0 on.' }).max(1e6);

function textIn(form: FormData, name: string): string {
  const given = form.get(name);
  return typeof given === 'string' ? given : '';
}
