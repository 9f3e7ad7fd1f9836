import { fail } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { firstPersonSchema } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import { asErrorPage, asRefusal, inOneText, refusePage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import { makeFirst, requireFirstLink } from '$server/workspace/first-start';
import { goOn, signInFrom } from '$server/workspace/let-in';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
  await requireFirstLink(bussola(), params.token).catch(asErrorPage);
  return { form: await superValidate(zod4(firstPersonSchema)) };
};

export const actions = {
  default: async (event) => {
    const server = bussola();
    const form = await superValidate(event.request, zod4(firstPersonSchema));
    const sent = { ...form.data };
    form.data.password = '';
    if (!form.valid) return fail(400, { form });
    const person = await makeFirst(server, event.params.token, sent).catch(asRefusal);
    if (person instanceof Refusal) {
      if (person.code === 'not-found') refusePage(person);
      return setError(form, person.path?.[0] === 'name' ? 'name' : 'password', inOneText(person), { status: 400 });
    }
    const { db, clock, signIn } = server;
    const result = await signIn.withIssuer(db, person, signInFrom(event), clock.now());
    if (result.kind !== 'signed in') throw new Error(`the first administrator cannot sign in: ${result.kind}`);
    return goOn(server, event.cookies, result, '/');
  }
} satisfies Actions;
