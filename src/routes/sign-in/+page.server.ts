import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { signInSchema } from '$lib/core/forms/forms';
import { addressWithin } from '$server/http/address-within';
import { countPeople } from '$server/people/people';
import { bussola } from '$server/process/running';
import { goOn, recordSignIn, signInFrom } from '$server/workspace/let-in';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, url }) => {
  const { db, issuer, origin } = bussola();
  const to = url.searchParams.get('to');
  if (locals.person !== null) redirect(303, addressWithin(to, origin));
  return {
    form: await superValidate(zod4(signInSchema)),
    empty: (await countPeople(db)) === 0,
    issuer: issuer?.name ?? null,
    to: addressWithin(to, origin)
  };
};

export const actions = {
  default: async (event) => {
    const server = bussola();
    const form = await superValidate(event.request, zod4(signInSchema));
    const { password, name } = form.data;
    form.data.password = ''; // never sent back
    if (!form.valid) return fail(400, { form });
    const from = signInFrom(event);
    const result = await server.signIn.withPassword(server.db, name, password, from, server.clock.now());
    await recordSignIn(server, result, name, from);
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
      case 'second factor':
        return goOn(server, event.cookies, result, event.url.searchParams.get('to'));
    }
  }
} satisfies Actions;
