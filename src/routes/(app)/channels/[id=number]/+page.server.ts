import { error, fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { idFrom } from '$lib/core/forms/id';
import { channelFormSchema } from '$lib/core/forms/forms';
import { addressedChannelSchema } from '$lib/core/notify';
import { usesChannel } from '$lib/core/notify/route';
import { Refusal } from '$lib/core/problem/problem';
import { authorOf } from '$server/boards/boards';
import { asRefusal, inOneText, orProblem, statusOf } from '$server/http/pages';
import { channelById, subscribersOf } from '$server/notify/channels';
import { confirmWithCode, sendConfirmation } from '$server/notify/manage-channels';
import { addSubscriber, removeSubscriber } from '$server/notify/topics';
import { bussola } from '$server/process/running';
import { allRoutes } from '$server/routing/routes';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const topic = await channelById(db, Number(params.id));
  if (topic?.kind !== 'topic')
    error(404, { message: 'There is no such topic.', remedy: 'It may have been removed. See the list of channels.' });
  const [subscribers, routes] = await Promise.all([subscribersOf(db, topic.id), allRoutes(db)]);
  return {
    form: await superValidate(zod4(channelFormSchema)),
    ...{ topic, subscribers },
    routes: routes.filter(({ route }) => usesChannel(route, topic)).map(({ id, route: { name } }) => ({ id, name }))
  };
};

const idIn = (data: FormData): number => idFrom(data.get('id')) ?? 0;

export const actions = {
  add: async ({ params, request, locals }) => {
    const data = await request.formData();
    // Subscribers are known by their address: a name of their own is not asked for.
    const address = data.get('address');
    if (typeof address === 'string') data.set('name', address.slice(0, 80));
    const form = await superValidate(data, zod4(channelFormSchema));
    if (!form.valid) return fail(400, { form });
    const channel = addressedChannelSchema.parse(form.data);
    const added = await addSubscriber(
      bussola(),
      Number(params.id),
      // The address of a chat hook is a secret, and not shown as its name either.
      channel.kind === 'chat-hook' ? { ...channel, name: 'chat hook' } : channel,
      authorOf(locals.person)
    ).catch(asRefusal);
    if (added instanceof Refusal) return setError(form, 'address', inOneText(added), { status: statusOf(added) });
    const secret = added.signingSecret === null ? '' : ` Verify its signatures with ${added.signingSecret}`;
    return message(
      form,
      (added.kind === 'email' || added.kind === 'text-message'
        ? `A link was sent to ${added.address}. Whoever reads it subscribes by following it.`
        : `A code was sent to ${added.address}. Enter it in the list.`) + secret
    );
  },
  sendAgain: ({ request, locals }) =>
    orProblem(async () => {
      const sent = await sendConfirmation(bussola(), idIn(await request.formData()), authorOf(locals.person));
      return { done: `It was sent to ${sent.address} again.` };
    }),
  confirm: ({ request }) =>
    orProblem(async () => {
      const data = await request.formData();
      const code = data.get('code');
      const { address } = await confirmWithCode(bussola(), idIn(data), typeof code === 'string' ? code : '');
      return { done: `${address} is subscribed.` };
    }),
  remove: ({ params, request }) =>
    orProblem(async () => {
      const { address } = await removeSubscriber(bussola(), Number(params.id), idIn(await request.formData()));
      return { done: `${address} is removed.` };
    })
} satisfies Actions;
