import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { alarmSchema } from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { alarmChoices, draftAlarm } from '$server/alarms/draft';
import { saveAlarm } from '$server/alarms/save-alarm';
import { asRefusal, inOneText, statusOf } from '$server/http/pages';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
  const server = bussola();
  const draft = await draftAlarm(server, url.searchParams.get('signal'));
  return {
    form: await superValidate(draft, zod4(alarmSchema)),
    choices: await alarmChoices(server),
    from: url.searchParams.get('title')
  };
};

export const actions = {
  save: async ({ request, locals }) => {
    const form = await superValidate(request, zod4(alarmSchema));
    if (!form.valid) return fail(400, { form });
    const saved = await saveAlarm(bussola(), null, form.data, locals.person?.displayName ?? '').catch(asRefusal);
    if (saved instanceof Refusal) return setError(form, '', inOneText(saved), { status: statusOf(saved) });
    redirect(303, `/alarms/${saved.id}`);
  }
} satisfies Actions;
