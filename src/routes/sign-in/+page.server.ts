import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { signInSchema } from '$lib/core/forms/forms';
import { addressWithin } from '$server/http/address-within';
import { sessionCookie, setSessionCookie } from '$server/http/cookie';
import { countPeople } from '$server/people/people';
import { endSession, sessionKey } from '$server/people/sessions';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, url }) => {
  if (locals.person !== null) redirect(303, addressWithin(url.searchParams.get('to'), bussola().origin));
  return { form: await superValidate(zod4(signInSchema)), empty: (await countPeople(bussola().db)) === 0 };
};

export const actions = {
  default: async ({ request, cookies, locals, url }) => {
    const { db, clock, signIn, origin } = bussola();
    const form = await superValidate(request, zod4(signInSchema));
    const { password } = form.data;
    form.data.password = ''; // never sent back
    if (!form.valid) return fail(400, { form });
    const result = await signIn(db, form.data.name, password, locals.address, clock.now());
    switch (result.kind) {
      case 'too many':
        return setError(
          form,
          '',
          `Too many tries. Wait ${Math.ceil(result.retryAfterSeconds / 60)} min, then try again.`,
          { status: 429 }
        );
      case 'wrong':
        return setError(form, '', 'The name and password do not belong together.', { status: 401 });
      case 'signed in':
        await endOldSession(cookies.get(sessionCookie));
        setSessionCookie(cookies, result.token, origin.startsWith('https:'));
        redirect(303, addressWithin(url.searchParams.get('to'), origin));
    }
  }
} satisfies Actions;

/** Who signs in again leaves no session behind. */
async function endOldSession(token: string | undefined): Promise<void> {
  if (token === undefined) return;
  const { db, changes } = bussola();
  await endSession(db, token);
  changes.tell('session', { key: sessionKey(token) });
}
