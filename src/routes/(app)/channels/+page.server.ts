import { fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { z } from 'zod';
import { channelFormSchema } from '$lib/core/forms/forms';
import { allAlarms } from '$server/alarms/alarms';
import { allChannels, channelById, insertEmailChannel, removeChannel, renewToken } from '$server/notify/channels';
import { confirmMail } from '$server/notify/confirm';
import { lastMessages } from '$server/notify/outbox';
import { Refusal } from '$server/refusal';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [channels, alarms, last] = await Promise.all([allChannels(db), allAlarms(db), lastMessages(db)]);
  return {
    form: await superValidate(zod4(channelFormSchema)),
    channels: channels.map((channel) => ({
      ...channel,
      alarms: alarms
        .filter(({ definition }) => definition.channels.includes(channel.id))
        .map(({ id, definition: { name } }) => ({ id, name })),
      last: last.find(({ channelId }) => channelId === channel.id) ?? null
    }))
  };
};

const idSchema = z.coerce.number().int().positive();
const idOf = async (request: Request) => idSchema.safeParse((await request.formData()).get('id'));

export const actions = {
  add: async ({ request, locals }) => {
    const { db, clock, delivery, origin } = bussola();
    const form = await superValidate(request, zod4(channelFormSchema));
    if (!form.valid) return fail(400, { form });
    try {
      await db.transaction(async (within) => {
        const createdAt = clock.now();
        const { channel, token } = await insertEmailChannel(within, {
          ...form.data,
          createdAt,
          createdBy: locals.person?.displayName ?? ''
        });
        await delivery.enqueue(within, {
          channelId: channel.id,
          incidentId: null,
          kind: 'confirm',
          createdAt,
          ...confirmMail(channel, token, origin)
        });
      });
    } catch (error) {
      if (error instanceof Refusal) return setError(form, 'address', `${error.message} ${error.remedy}`);
      throw error;
    }
    return message(form, `A link was sent to ${form.data.address}. Alarms go there once it has been followed.`);
  },
  sendAgain: async ({ request }) => {
    const { db, clock, delivery, origin } = bussola();
    const id = await idOf(request);
    const channel = id.success ? await channelById(db, id.data) : null;
    if (channel === null) return fail(404, { problem: 'There is no such channel.' });
    await db.transaction(async (within) => {
      const createdAt = clock.now();
      const token = await renewToken(within, channel.id, createdAt);
      await delivery.enqueue(within, {
        channelId: channel.id,
        incidentId: null,
        kind: 'confirm',
        createdAt,
        ...confirmMail(channel, token, origin)
      });
    });
  },
  remove: async ({ request }) => {
    const { db } = bussola();
    const id = await idOf(request);
    if (!id.success) return fail(400, { problem: 'Which channel?' });
    const users = (await allAlarms(db)).filter(({ definition }) => definition.channels.includes(id.data));
    if (users.length > 0)
      return fail(409, {
        problem: `${users.map(({ definition }) => definition.name).join(', ')} tell this channel. Take it out of them first.`
      });
    await removeChannel(db, id.data);
  }
} satisfies Actions;
