import { fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate, type Infer } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { accountFormSchema } from '$lib/core/forms/forms';
import { Refusal } from '$lib/core/problem/problem';
import { asRefusal, inOneText, statusOf } from '$server/http/pages';
import { connectAccount, isAccepted, testCredential } from '$server/intake/pull/connect';
import { bussola } from '$server/process/running';
import type { AccessCheck } from '$server/providers/port/provider';
import type { Actions, PageServerLoad, RequestEvent } from './$types';

type AccountForm = Infer<typeof accountFormSchema>;
const schema = zod4(accountFormSchema);
const validated = (request: Request) => superValidate<AccountForm, AccessCheck[]>(request, schema);

export const load: PageServerLoad = async ({ url }) => {
  const { providers } = bussola();
  const form = await superValidate<AccountForm, AccessCheck[]>(schema);
  const wanted = url.searchParams.get('provider') ?? '';
  form.data.provider = Object.hasOwn(providers, wanted) ? wanted : (Object.keys(providers)[0] ?? '');
  return { form, providers: Object.entries(providers).map(([key, { name, guide }]) => ({ key, name, guide })) };
};

export const actions = {
  /** Tests the credential; nothing is saved. */
  test: async ({ request }) => {
    const { form, access } = await formAndAccess(request);
    if (!form.valid) return fail(400, { form });
    const checks = await testCredential(bussola(), access).catch(asRefusal);
    return checks instanceof Refusal ? refusedField(form, checks) : message(form, checks);
  },
  /** Tests the credential, and saves the account when reach, clock and credential are in order; its first pull begins at once. */
  connect: (event) => connected(event, { evenIfRefused: false }),
  /** Saves the account whatever a test would say: the second choice of somebody who has seen that it fails. */
  connectAnyway: (event) => connected(event, { evenIfRefused: true })
} satisfies Actions;

/** The form, from which the secret is taken: it is never sent back. */
async function formAndAccess(request: Request) {
  const form = await validated(request);
  const access = { ...form.data };
  form.data.secret = '';
  return { form, access };
}

type Form = Awaited<ReturnType<typeof validated>>;
const refusedField = (form: Form, refusal: Refusal) =>
  setError(form, refusal.path?.[0] === 'provider' ? 'provider' : 'name', inOneText(refusal), {
    status: statusOf(refusal)
  });

async function connected({ request, locals }: RequestEvent, { evenIfRefused }: { evenIfRefused: boolean }) {
  const server = bussola();
  const { form, access } = await formAndAccess(request);
  if (!form.valid) return fail(400, { form });
  if (!evenIfRefused) {
    const checks = await testCredential(server, access).catch(asRefusal);
    if (checks instanceof Refusal) return refusedField(form, checks);
    if (!isAccepted(checks)) return message(form, checks, { status: 422 });
  }
  const by = locals.person?.displayName ?? '';
  const made = await connectAccount(server, access, server.config.historyDays, by).catch(asRefusal);
  if (made instanceof Refusal) return refusedField(form, made);
  redirect(303, `/accounts/${made.id}`);
}
