import { idFrom } from '$lib/core/forms/id';
import { Refusal } from '$lib/core/problem/problem';
import { orProblem } from '$server/http/pages';
import { attemptsOf } from '$server/notify/outbox';
import { countByState, listMessages, outboxStates } from '$server/notify/outbox-lists';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

/** Messages of one page. */
const pageLength = 100;

export const load: PageServerLoad = async ({ depends, url, locals }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const state = outboxStates.find((one) => one === url.searchParams.get('state')) ?? null;
  const before = idFrom(url.searchParams.get('before'));
  const chosen = idFrom(url.searchParams.get('message'));
  const [messages, counts] = await Promise.all([
    listMessages(db, { state, before, around: chosen }, pageLength + 1),
    countByState(db)
  ]);
  const maySee = locals.person?.role !== 'viewer';
  return {
    messages: messages.slice(0, pageLength),
    more: messages.length > pageLength,
    counts,
    state,
    chosen,
    attempts: chosen === null || !maySee ? [] : await attemptsOf(db, chosen)
  };
};

export const actions = {
  /** Tries a message that failed once more. */
  resend: ({ request }) =>
    orProblem(async () => {
      const id = idFrom((await request.formData()).get('id')) ?? 0;
      if (!(await bussola().delivery.sendAgain(id)))
        throw new Refusal('not-found', 'There is no such message that failed.', 'It may have been sent meanwhile.');
      return { done: 'The message is being sent again.' };
    })
} satisfies Actions;
