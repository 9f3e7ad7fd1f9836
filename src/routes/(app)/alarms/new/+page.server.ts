import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { alarmSchema } from '$lib/core/alarm';
import { insertAlarm } from '$server/alarms/alarms';
import { alarmChoices, alarmProblem, draftAlarm, withUnit } from '$server/alarms/draft';
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
    const server = bussola();
    const { db, clock, changes } = server;
    const form = await superValidate(request, zod4(alarmSchema));
    if (!form.valid) return fail(400, { form });
    const problem = await alarmProblem(db, form.data);
    if (problem !== null) return setError(form, '', problem);
    const definition = { ...form.data, signal: await withUnit(server, form.data.signal) };
    const { id } = await insertAlarm(db, definition, locals.person?.displayName ?? '', clock.now());
    changes.tell('definition', { alarmId: id });
    redirect(303, `/alarms/${id}`);
  }
} satisfies Actions;
