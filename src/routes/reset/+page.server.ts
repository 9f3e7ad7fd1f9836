import { fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { resetSchema } from '$lib/core/people/forms';
import { Refusal } from '$lib/core/problem/problem';
import { asRefusal, inOneText } from '$server/http/pages';
import { bussola } from '$server/process/running';
import { askForReset } from '$server/workspace/invite';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ form: await superValidate(zod4(resetSchema)) });

export const actions = {
  default: async ({ request, locals }) => {
    const form = await superValidate(request, zod4(resetSchema));
    if (!form.valid) return fail(400, { form });
    const refused = await askForReset(bussola(), form.data.name, locals.address).catch(asRefusal);
    if (refused instanceof Refusal) return setError(form, '', inOneText(refused), { status: 429 });
    return message(form, 'If somebody has that name or address, a link is on its way to their mail address.');
  }
} satisfies Actions;
