import { fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate, type Infer } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { accountFormSchema } from '$lib/core/forms/forms';
import { insertAccount } from '$server/inventory/accounts';
import { accessToTest, providerOf } from '$server/intake/ledger/intake';
import type { AccessCheck } from '$server/providers/port/provider';
import { historyStart } from '$server/intake/pull/pull';
import { Refusal } from '$server/base/refusal';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad, RequestEvent } from './$types';

type AccountForm = Infer<typeof accountFormSchema>;
const schema = zod4(accountFormSchema);
const validated = (request: Request) => superValidate<AccountForm, AccessCheck[]>(request, schema);

export const load: PageServerLoad = async ({ url }) => {
  const { providers } = bussola();
  const form = await superValidate<AccountForm, AccessCheck[]>(schema);
  const asked = url.searchParams.get('provider');
  if (asked !== null && asked in providers) form.data.provider = asked as AccountForm['provider'];
  return {
    form,
    providers: Object.entries(providers).map(([key, { name, guide }]) => ({
      key: key as AccountForm['provider'],
      name,
      guide
    }))
  };
};

export const actions = {
  /** Tries the credential; nothing is kept. */
  test: async ({ request }) => {
    const form = await validated(request);
    const access = { ...form.data };
    form.data.secret = ''; // never sent back
    if (!form.valid) return fail(400, { form });
    return message(
      form,
      await providerOf(bussola().providers, access).testAccess(accessToTest(bussola().guards, access))
    );
  },
  /** Tests the credential, and saves the account when reach, clock and credential are in order; its first pull begins at once. */
  connect: (event) => connected(event, { evenIfRefused: false }),
  /** Saves the account whatever a test would say: the second choice of who has seen that it fails. */
  connectAnyway: (event) => connected(event, { evenIfRefused: true })
} satisfies Actions;

/** Checks without which nothing can be collected: reach, clock and credential. What is missing beyond them costs single services. */
const essential = 3;

async function connected({ request, locals }: RequestEvent, { evenIfRefused }: { evenIfRefused: boolean }) {
  const { db, clock, secrets, config, providers } = bussola();
  const form = await validated(request);
  const access = { ...form.data };
  form.data.secret = ''; // never sent back
  if (!form.valid) return fail(400, { form });
  if (!evenIfRefused) {
    const checks = await providerOf(providers, access).testAccess(accessToTest(bussola().guards, access));
    if (checks.slice(0, essential).some(({ passed }) => !passed)) return message(form, checks, { status: 422 });
  }
  const { secret, ...account } = access;
  let id: number;
  try {
    const createdAt = clock.now();
    ({ id } = await insertAccount(db, {
      ...account,
      sealedSecret: secrets.seal(secret),
      createdAt,
      createdBy: locals.person?.displayName ?? '',
      historyFrom: historyStart(createdAt, config.historyDays)
    }));
  } catch (error) {
    if (error instanceof Refusal) return setError(form, 'name', `${error.message} ${error.remedy}`);
    throw error;
  }
  redirect(303, `/accounts/${id}`);
}
