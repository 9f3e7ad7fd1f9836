import { fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { idFrom } from '$lib/core/forms/id';
import { channelFormSchema } from '$lib/core/forms/forms';
import { allAlarms } from '$server/alarms/alarms';
import { allChannels, channelById, insertEmailChannel, removeChannel } from '$server/notify/channels';
import { confirmMessage } from '$server/notify/confirm';
import { confirmationLimits } from '$server/notify/confirmation-limits';
import { lastMessages, troubledMessages } from '$server/notify/outbox';
import { Refusal } from '$server/base/refusal';
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
const confirmations = confirmationLimits();

const idOf = async (request: Request) => idFrom((await request.formData()).get('id'));

export const actions = {
  add: async ({ request, locals }) => {
    const { db, clock, delivery } = bussola();
    const form = await superValidate(request, zod4(channelFormSchema));
    if (!form.valid) return fail(400, { form });
    const wait = await confirmations.take(locals.person?.id ?? 0, form.data.address);
    if (wait !== null) return setError(form, 'address', wait, { status: 429 });
    try {
      await db.transaction(async (within) => {
        const createdAt = clock.now();
        const createdBy = locals.person?.displayName ?? '';
        const { id } = await insertEmailChannel(within, { ...form.data, createdAt, createdBy });
        await delivery.enqueue(within, confirmMessage(id, form.data.address, createdAt));
      });
    } catch (error) {
      if (error instanceof Refusal) return setError(form, 'address', `${error.message} ${error.remedy}`);
      throw error;
    }
    return message(form, `A link was sent to ${form.data.address}. Alarms go there once it has been followed.`);
  },
  sendAgain: async ({ request, locals }) => {
    const { db, clock, delivery } = bussola();
    const id = await idOf(request);
    const channel = id === null ? null : await channelById(db, id);
    if (channel === null) return fail(404, { problem: 'There is no such channel.' });
    const wait = await confirmations.take(locals.person?.id ?? 0, channel.address);
    if (wait !== null) return fail(429, { problem: wait });
    await delivery.enqueue(db, confirmMessage(channel.id, channel.address, clock.now()));
    return { done: `The link was sent to ${channel.address} again.` };
  },
  /** Tries a message that failed once more. */
  resend: async ({ request }) => {
    const id = await idOf(request);
    if (id === null || !(await bussola().delivery.sendAgain(id)))
      return fail(404, { problem: 'There is no such message that failed. It may have been sent meanwhile.' });
    return { done: 'The message is being sent again.' };
  },
  remove: async ({ request }) => {
    const { db } = bussola();
    const id = await idOf(request);
    if (id === null) return fail(400, { problem: 'Which channel?' });
    const users = (await allAlarms(db)).filter(({ definition }) => definition.channels.includes(id));
    if (users.length > 0)
      return fail(409, {
        problem: `${users.map(({ definition }) => definition.name).join(', ')} tell this channel. Take it out of them first.`
      });
    await removeChannel(db, id);
  }
} satisfies Actions;
