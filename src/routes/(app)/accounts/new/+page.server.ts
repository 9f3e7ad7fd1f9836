import { fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate, type Infer } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { accountFormSchema } from '$lib/core/forms/forms';
import { insertAccount } from '$server/intake/accounts';
import { accessToTest, providerOf } from '$server/intake/intake';
import type { AccessCheck } from '$server/intake/provider';
import { historyStart } from '$server/intake/pull';
import { Refusal } from '$server/refusal';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

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
    if (!form.valid) return fail(400, { form });
    return message(form, await providerOf(bussola().providers, form.data).testAccess(accessToTest(form.data)));
  },
  /** Keeps the account; its first pull begins at once, whatever a test said. */
  connect: async ({ request, locals }) => {
    const { db, clock, secrets, config } = bussola();
    const form = await validated(request);
    if (!form.valid) return fail(400, { form });
    const { secret, ...kept } = form.data;
    let id: number;
    try {
      const createdAt = clock.now();
      const account = {
        ...kept,
        sealedSecret: secrets.seal(secret),
        createdAt,
        createdBy: locals.person?.displayName ?? '',
        historyFrom: historyStart(createdAt, config.historyDays)
      };
      ({ id } = await insertAccount(db, account));
    } catch (error) {
      if (error instanceof Refusal) return setError(form, 'name', `${error.message} ${error.remedy}`);
      throw error;
    }
    redirect(303, `/accounts/${id}`);
  }
} satisfies Actions;
