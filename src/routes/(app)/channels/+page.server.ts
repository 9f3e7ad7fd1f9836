import { Refusal } from '$lib/core/problem/problem';
import { fail } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { idFrom } from '$lib/core/forms/id';
import { channelFormSchema } from '$lib/core/forms/forms';
import { newChannelSchema } from '$lib/core/notify';
import { usesChannel } from '$lib/core/notify/route';
import { removeChannel } from '$server/routing/remove-channel';
import { allRoutes } from '$server/routing/routes';
import { addChannel, confirmWithCode, renewSecret, sendConfirmation, sendTest } from '$server/notify/manage-channels';
import { authorOf } from '$server/boards/boards';
import { asRefusal, inOneText, orProblem, statusOf } from '$server/http/pages';
import { allChannels } from '$server/notify/channels';
import { attemptsOf, lastTests } from '$server/notify/outbox';
import { lastMessages } from '$server/notify/outbox-lists';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [channels, routes, last, tests] = await Promise.all([
    allChannels(db),
    allRoutes(db),
    lastMessages(db),
    lastTests(db)
  ]);
  const mayTest = locals.person?.role !== 'viewer';
  const exchanges = await Promise.all(
    (mayTest ? tests : []).map(async (test) => ({ ...test, attempts: await attemptsOf(db, test.id, mostAttempts) }))
  );
  return {
    form: await superValidate(zod4(channelFormSchema)),
    channels: channels.map((channel) => ({
      ...channel,
      routes: routes
        .filter(({ route }) => usesChannel(route, channel))
        .map(({ id, route: { name } }) => ({ id, name })),
      last: last.find(({ channelId }) => channelId === channel.id) ?? null,
      test: exchanges.find(({ channelId }) => channelId === channel.id) ?? null
    }))
  };
};

/** Tries of a test that are shown. */
const mostAttempts = 3;

/** The channel or message of a form. */
const idIn = (data: FormData): number => idFrom(data.get('id')) ?? 0;
const codeIn = (data: FormData): string => {
  const code = data.get('code');
  return typeof code === 'string' ? code : '';
};

export const actions = {
  add: async ({ request, locals }) => {
    const form = await superValidate(request, zod4(channelFormSchema));
    if (!form.valid) return fail(400, { form });
    const channel = newChannelSchema.parse(form.data);
    const added = await addChannel(bussola(), channel, authorOf(locals.person)).catch(asRefusal);
    if (added instanceof Refusal)
      return setError(
        form,
        added.path?.[0] === 'template'
          ? 'template'
          : added.path?.[0] === 'name' || channel.kind === 'topic'
            ? 'name'
            : 'address',
        inOneText(added),
        {
          status: statusOf(added)
        }
      );
    if (added.kind === 'topic') return message(form, `${added.name} is added. Add its subscribers on its page.`);
    const asked =
      added.kind === 'email'
        ? `A link was sent to ${added.address}. Routes notify the channel once it has been followed.`
        : `A code was sent to ${added.address}. Enter it in the list: routes notify the channel after that.`;
    const secret = added.signingSecret === null ? '' : ` Verify its signatures with ${added.signingSecret}`;
    return message(form, `${asked}${secret}`);
  },
  sendAgain: ({ request, locals }) =>
    orProblem(async () => {
      const sent = await sendConfirmation(bussola(), idIn(await request.formData()), authorOf(locals.person));
      return { done: `${sent.kind === 'email' ? 'The link' : 'A new code'} was sent to ${sent.address}.` };
    }),
  confirm: ({ request }) =>
    orProblem(async () => {
      const data = await request.formData();
      const { name } = await confirmWithCode(bussola(), idIn(data), codeIn(data));
      return { done: `${name} is confirmed.` };
    }),
  test: ({ request, locals }) =>
    orProblem(async () => {
      await sendTest(bussola(), idIn(await request.formData()), authorOf(locals.person));
      return { done: 'The test is being sent. What is answered appears in the list.' };
    }),
  /** Gives a webhook another secret. */
  secret: ({ request }) =>
    orProblem(async () => {
      const secret = await renewSecret(bussola(), idIn(await request.formData()));
      return {
        done: `The new secret is ${secret}. It is shown only now; the one before still counts for a day.`
      };
    }),
  remove: ({ request, locals }) =>
    orProblem(async () => {
      const id = idIn(await request.formData());
      const by = locals.person?.displayName ?? '';
      await resting(bussola(), { kind: 'channels', id, by }, (inner) => removeChannel(inner, id));
      return { done: 'The channel is removed.' };
    })
} satisfies Actions;
