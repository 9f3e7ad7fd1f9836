import { error, fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { groupBoard } from '$lib/core/board/starters';
import { groupSchema } from '$lib/core/group';
import { serviceOrder } from '$lib/core/services';
import { plainSignal } from '$lib/core/signal';
import { shownWith } from '$server/boards/shown';
import { groupChoices } from '$server/query/groups/choices';
import { groupById, removeGroup } from '$server/query/groups/groups';
import { saveGroup } from '$server/query/groups/save-group';
import { membersOf } from '$server/query/groups/members';
import { metricsWithUse } from '$server/inventory/metrics';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import { usesOfValue } from '$server/boards/signal-uses';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:board');
  const server = bussola();
  const { db } = server;
  const group = await groupById(db, Number(params.id));
  if (group === null)
    error(404, { message: 'There is no such group.', remedy: 'It may have been removed. See the list of groups.' });
  const [metrics, members, uses] = await Promise.all([
    metricsWithUse(db),
    membersOf(db, group.rule),
    usesOfValue(db, 'group', group.name)
  ]);
  const services = [...new Set(members.map(({ service }) => service))].sort(
    (a, b) => serviceOrder(a) - serviceOrder(b)
  );
  const board = groupBoard(
    group.name,
    services.map((service) => ({ service, metrics: metrics.filter((metric) => metric.service === service) }))
  );
  const watched = metrics.find((metric) => metric.recommended && services.includes(metric.service));
  return {
    form: await superValidate({ name: group.name, rule: group.rule }, zod4(groupSchema)),
    stored: { definition: { name: group.name, rule: group.rule }, by: group.changedBy },
    labels: await groupChoices(db),
    name: group.name,
    members: members.length,
    /** What an alarm on the group begins with; null while nothing in it has a metric. */
    alarmSignal: watched
      ? plainSignal({ metric: watched.name, where: [{ label: 'group', is: [group.name] }], statistic: 'avg' })
      : null,
    uses,
    board,
    ...(await shownWith(server, board))
  };
};

export const actions = {
  save: async ({ request, params, locals }) => {
    const form = await superValidate(request, zod4(groupSchema));
    if (!form.valid) return fail(400, { form });
    const server = bussola();
    const known = await groupById(server.db, Number(params.id));
    if (known !== null && known.name !== form.data.name) {
      const uses = await usesOfValue(server.db, 'group', known.name);
      if (uses.length > 0)
        return setError(
          form,
          'name',
          `Renaming it would empty what picks by it: ${uses.map(({ name }) => name).join(', ')}.`
        );
    }
    const kept = await saveGroup(server, Number(params.id), form.data, locals.person?.displayName ?? '');
    if (kept === 'taken') return setError(form, 'name', 'Another group has this name.');
    if (kept === null)
      error(404, { message: 'There is no such group.', remedy: 'It may have been removed meanwhile.' });
    return message(form, 'Saved.');
  },
  remove: async ({ params, locals }) => {
    const { db } = bussola();
    const group = await groupById(db, Number(params.id));
    if (group !== null && (await usesOfValue(db, 'group', group.name)).length > 0)
      return fail(409, { problem: 'It is in use: change what picks by it first.' });
    const id = Number(params.id);
    const by = locals.person?.displayName ?? '';
    await resting(bussola(), { kind: 'groups', id, by }, (inner) => removeGroup(inner.db, id));
    redirect(303, '/groups');
  }
} satisfies Actions;
