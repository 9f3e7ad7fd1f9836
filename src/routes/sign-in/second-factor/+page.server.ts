import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { codeSchema } from '$lib/core/people/forms';
import { halfCookie } from '$server/http/cookie';
import { bussola } from '$server/process/running';
import { goOn, recordSignIn, signInFrom } from '$server/workspace/let-in';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ cookies }) => {
  if (cookies.get(halfCookie) === undefined) redirect(303, '/sign-in');
  return { form: await superValidate(zod4(codeSchema)) };
};

export const actions = {
  default: async (event) => {
    const { cookies, url } = event;
    const server = bussola();
    const form = await superValidate(event.request, zod4(codeSchema));
    const { code } = form.data;
    form.data.code = ''; // each counts once
    if (!form.valid) return fail(400, { form });
    const half = cookies.get(halfCookie) ?? '';
    const from = signInFrom(event);
    const { signIn, db, secrets, clock } = server;
    const result = await signIn.withCode(db, secrets, half, code, from, clock.now());
    await recordSignIn(server, result, '', from, 'Signs in with the second factor');
    if (result.kind === 'signed in') return goOn(server, cookies, result, url.searchParams.get('to'));
    if (result.kind === 'over') {
      cookies.delete(halfCookie, { path: '/sign-in' });
      redirect(303, '/sign-in');
    }
    if (result.kind === 'too many')
      return setError(form, 'code', `Too many wrong codes. Wait ${Math.ceil(result.retryAfterSeconds / 60)} min.`, {
        status: 429
      });
    return setError(form, 'code', 'The code is wrong, or was used already.', { status: 401 });
  }
} satisfies Actions;
