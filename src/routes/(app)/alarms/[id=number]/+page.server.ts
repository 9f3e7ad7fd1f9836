import { error, fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { alarmSchema } from '$lib/core/alarm';
import { requirePlainPick } from '$lib/core/signal';
import { alarmById, changeAlarm, forgetJudged, removeAlarm, seriesStates } from '$server/alarms/alarms';
import { alarmChoices } from '$server/alarms/draft';
import { seriesOfMetric } from '$server/intake/resources';
import { signalProblem } from '$server/query';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const server = bussola();
  const alarm = await alarmById(server.db, Number(params.id));
  if (alarm === null)
    error(404, { message: 'There is no such alarm.', remedy: 'It may have been removed. See the list of alarms.' });
  const series = await seriesOfMetric(server.db, requirePlainPick(alarm.definition.signal).metric);
  const states = (await seriesStates(server.db, alarm.id)).map(({ seriesId, state, since }) => ({
    seriesId,
    state,
    since,
    ...series.find(({ id }) => id === seriesId)?.labels
  }));
  const { changedAt, changedBy, definition } = alarm;
  return {
    form: await superValidate(definition, zod4(alarmSchema)),
    choices: await alarmChoices(server),
    changedAt,
    changedBy,
    severity: definition.severity,
    states
  };
};

export const actions = {
  save: async ({ request, params, locals }) => {
    const { db, clock, changes } = bussola();
    const form = await superValidate(request, zod4(alarmSchema));
    if (!form.valid) return fail(400, { form });
    const problem = await signalProblem(db, form.data.signal);
    if (problem !== null) return setError(form, '', `${problem.message} ${problem.remedy}`);
    const id = Number(params.id);
    const changed = await db.transaction(async (within) => {
      await forgetJudged(within, id);
      return changeAlarm(within, id, form.data, locals.person?.displayName ?? '', clock.now());
    });
    if (changed === null)
      error(404, { message: 'There is no such alarm.', remedy: 'It may have been removed meanwhile.' });
    changes.tell('definition', { alarmId: id });
    return message(form, 'Saved.');
  },
  remove: async ({ params }) => {
    const { db, changes } = bussola();
    await removeAlarm(db, Number(params.id));
    changes.tell('alarm', { alarmId: Number(params.id) });
    redirect(303, '/alarms');
  }
} satisfies Actions;
