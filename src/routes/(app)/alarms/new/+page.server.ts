import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { alarmSchema } from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { alarmById } from '$server/alarms/alarms';
import { alarmChoices, draftAlarm, draftCombined } from '$server/alarms/draft';
import { saveAlarm } from '$server/alarms/save-alarm';
import { asErrorPage, asRefusal, inOneText, statusOf } from '$server/http/pages';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
  const server = bussola();
  const copied = Number(url.searchParams.get('copy') ?? NaN);
  const other = Number.isInteger(copied) ? await alarmById(server.db, copied).catch(asErrorPage) : null;
  const combined = url.searchParams.get('combine');
  const draft =
    combined !== null
      ? await draftCombined(server, combined.split(',').map(Number))
      : other
        ? { ...other.definition, name: `Copy of ${other.definition.name}`.slice(0, 120) }
        : await draftAlarm(server, url.searchParams.get('signal'));
  return {
    form: await superValidate(draft, zod4(alarmSchema)),
    choices: await alarmChoices(server),
    from: other?.definition.name ?? url.searchParams.get('title')
  };
};

export const actions = {
  save: async ({ request, locals, url }) => {
    const form = await superValidate(request, zod4(alarmSchema));
    if (!form.valid) return fail(400, { form });
    const saved = await saveAlarm(
      bussola(),
      null,
      form.data,
      locals.person?.displayName ?? '',
      historyDaysFrom(url.searchParams.get('history'))
    ).catch(asRefusal);
    if (saved instanceof Refusal) return setError(form, '', inOneText(saved), { status: statusOf(saved) });
    redirect(303, `/alarms/${saved.id}`);
  }
} satisfies Actions;

/** Days of history that the new alarm is judged over as well: 1 to 30, none by default. */
function historyDaysFrom(text: string | null): number {
  const days = Number(text ?? 0);
  return Number.isInteger(days) && days >= 1 && days <= 30 ? days : 0;
}
