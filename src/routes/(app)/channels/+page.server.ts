import { Refusal } from '$lib/core/problem/problem';
import { fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { idFrom } from '$lib/core/forms/id';
import { channelFormSchema } from '$lib/core/forms/forms';
import { allAlarms } from '$server/alarms/alarms';
import { addChannel, removeChannel, sendConfirmation } from '$server/alarms/manage-channels';
import { authorOf } from '$server/boards/boards';
import { asRefusal, inOneText, orProblem, statusOf } from '$server/http/pages';
import { allChannels } from '$server/notify/channels';
import { lastMessages, troubledMessages } from '$server/notify/outbox';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [channels, alarms, last, troubled] = await Promise.all([
    allChannels(db),
    allAlarms(db),
    lastMessages(db),
    troubledMessages(db, mostTroubled)
  ]);
  return {
    form: await superValidate(zod4(channelFormSchema)),
    troubled,
    channels: channels.map((channel) => ({
      ...channel,
      alarms: alarms
        .filter(({ definition }) => definition.channels.includes(channel.id))
        .map(({ id, definition: { name } }) => ({ id, name })),
      last: last.find(({ channelId }) => channelId === channel.id) ?? null
    }))
  };
};

/** Messages that did not leave which are listed. */
const mostTroubled = 50;

/** The channel or message of a form. */
const idIn = async (request: Request): Promise<number> => idFrom((await request.formData()).get('id')) ?? 0;

export const actions = {
  add: async ({ request, locals }) => {
    const form = await superValidate(request, zod4(channelFormSchema));
    if (!form.valid) return fail(400, { form });
    const added = await addChannel(bussola(), form.data, authorOf(locals.person)).catch(asRefusal);
    if (added instanceof Refusal) return setError(form, 'address', inOneText(added), { status: statusOf(added) });
    return message(form, `A link was sent to ${added.address}. Alarms notify the channel once it has been followed.`);
  },
  sendAgain: ({ request, locals }) =>
    orProblem(async () => {
      const { address } = await sendConfirmation(bussola(), await idIn(request), authorOf(locals.person));
      return { done: `The link was sent to ${address} again.` };
    }),
  /** Tries a message that failed once more. */
  resend: ({ request }) =>
    orProblem(async () => {
      if (!(await bussola().delivery.sendAgain(await idIn(request))))
        throw new Refusal('not-found', 'There is no such message that failed.', 'It may have been sent meanwhile.');
      return { done: 'The message is being sent again.' };
    }),
  remove: ({ request }) =>
    orProblem(async () => {
      await removeChannel(bussola(), await idIn(request));
      return { done: 'The channel is removed.' };
    })
} satisfies Actions;
