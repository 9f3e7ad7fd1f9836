import { fail } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { joinSchema } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import { asErrorPage, asRefusal, inOneText, refusePage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import { setPasswordByLink, whoseLink } from '$server/workspace/invite';
import { goOn, signInFrom } from '$server/workspace/let-in';
import type { Actions, PageServerLoad } from './$types';

/** Opening the link only shows who is invited: mail programs open links by themselves. */
export const load: PageServerLoad = async ({ params }) => {
  const { displayName, name, role } = await whoseLink(bussola(), 'invitation', params.token).catch(asErrorPage);
  return { form: await superValidate(zod4(joinSchema)), displayName, name, role };
};

export const actions = {
  default: async (event) => {
    const server = bussola();
    const form = await superValidate(event.request, zod4(joinSchema));
    const { password, zone } = form.data;
    form.data.password = '';
    if (!form.valid) return fail(400, { form });
    const person = await setPasswordByLink(server, 'invitation', event.params.token, { password, zone }).catch(
      asRefusal
    );
    if (person instanceof Refusal) {
      if (person.code !== 'invalid') refusePage(person);
      return setError(form, 'password', inOneText(person), { status: 400 });
    }
    const { db, clock, signIn } = server;
    const result = await signIn.withIssuer(db, person, signInFrom(event), clock.now());
    if (result.kind !== 'signed in')
      throw new Error(`somebody who joins has a second factor, or is gone: ${result.kind}`);
    return goOn(server, event.cookies, result, '/profile');
  }
} satisfies Actions;
