import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { newPasswordSchema } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import { asErrorPage, asRefusal, inOneText, refusePage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import { setPasswordByLink, whoseLink } from '$server/workspace/invite';
import type { Actions, PageServerLoad } from './$types';

/** Opening the link only shows whose password it is: mail programs open links by themselves. */
export const load: PageServerLoad = async ({ params }) => ({
  form: await superValidate(zod4(newPasswordSchema)),
  name: (await whoseLink(bussola(), 'reset', params.token).catch(asErrorPage)).name
});

export const actions = {
  default: async ({ request, params }) => {
    const form = await superValidate(request, zod4(newPasswordSchema));
    const { password } = form.data;
    form.data.password = '';
    if (!form.valid) return fail(400, { form });
    const done = await setPasswordByLink(bussola(), 'reset', params.token, { password }).catch(asRefusal);
    if (!(done instanceof Refusal)) redirect(303, '/sign-in');
    if (done.code !== 'invalid') refusePage(done);
    return setError(form, 'password', inOneText(done), { status: 400 });
  }
} satisfies Actions;
