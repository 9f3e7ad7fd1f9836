import { fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { alarmSchema, type AlarmDefinition } from '$lib/core/alarm';
import { steadySignalSchema, subjectOf } from '$lib/core/signal';
import { Refusal } from '$lib/core/problem/problem';
import { alarmById, seriesStates } from '$server/alarms/alarms';
import { alarmChoices } from '$server/alarms/draft';
import { noSuchAlarm, removeAlarm, saveAlarm } from '$server/alarms/save-alarm';
import { asErrorPage, asRefusal, inOneText, refusePage, statusOf } from '$server/http/pages';
import { darkAccounts } from '$server/intake/own/dark-accounts';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
  depends('bussola:overview');
  const server = bussola();
  const alarm = await alarmById(server.db, Number(params.id)).catch(asErrorPage);
  if (alarm === null) refusePage(noSuchAlarm());
  const { changedAt, changedBy, definition, lastError } = alarm;
  const dark = new Map(
    (await darkAccounts(server.db, server.providers, server.clock.now())).map(({ name, since }) => [name, since])
  );
  const states = (await seriesStates(server.db, alarm.id)).map(({ key, labels, state, severity, since }) => ({
    key,
    subject: subjectOf(labels, definition.name),
    account: labels.account ?? '',
    /** Since when its account sends nothing; null when it does. */
    darkSince: dark.get(labels.account ?? '') ?? null,
    state,
    severity,
    since
  }));
  const other = otherSignal(url.searchParams.get('signal'));
  return {
    form: await superValidate(other ? { ...definition, signal: other } : definition, zod4(alarmSchema)),
    /** As it is stored now; the form is the person's own. */
    definition,
    /** Whether the form holds another signal than is saved: one that was composed on the bench. */
    isOther: other !== null,
    lastError,
    choices: await alarmChoices(server),
    changedAt,
    changedBy,
    states
  };
};

/** The signal in the address that an alarm is to have instead of its own; null when there is none that fits. */
function otherSignal(text: string | null): AlarmDefinition['signal'] | null {
  if (text === null) return null;
  try {
    return steadySignalSchema.safeParse(JSON.parse(text)).data ?? null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

export const actions = {
  save: async ({ request, params, locals }) => {
    const form = await superValidate(request, zod4(alarmSchema));
    if (!form.valid) return fail(400, { form });
    const by = locals.person?.displayName ?? '';
    const saved = await saveAlarm(bussola(), Number(params.id), form.data, by).catch(asRefusal);
    if (saved instanceof Refusal && saved.code === 'not-found') refusePage(saved);
    if (saved instanceof Refusal) return setError(form, '', inOneText(saved), { status: statusOf(saved) });
    return message(form, 'Saved.');
  },
  remove: async ({ params, locals }) => {
    const id = Number(params.id);
    const by = locals.person?.displayName ?? '';
    await resting(bussola(), { kind: 'alarms', id, by }, (inner) => removeAlarm(inner, id));
    redirect(303, '/alarms');
  }
} satisfies Actions;
