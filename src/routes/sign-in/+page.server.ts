import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { signInSchema } from '$lib/core/forms/forms';
import { setSessionCookie } from '$server/people/cookie';
import { countPeople } from '$server/people/people';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

/** Only an address within Bussola; `//host` and `/\host` would lead away. */
const within = (to: string | null): string => (to !== null && /^\/(?![/\\])/.test(to) ? to : '/');

export const load: PageServerLoad = async ({ locals, url }) => {
  if (locals.person !== null) redirect(303, within(url.searchParams.get('to')));
  return { form: await superValidate(zod4(signInSchema)), empty: (await countPeople(bussola().db)) === 0 };
};

export const actions = {
  default: async ({ request, cookies, getClientAddress, url }) => {
    const { db, clock, signIn, origin } = bussola();
    const form = await superValidate(request, zod4(signInSchema));
    if (!form.valid) return fail(400, { form });
    const result = await signIn(db, form.data.name, form.data.password, getClientAddress(), clock.now());
    form.data.password = '';
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
        setSessionCookie(cookies, result.token, origin.startsWith('https:'));
        redirect(303, within(url.searchParams.get('to')));
    }
  }
} satisfies Actions;
