import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import { groupSchema } from '$lib/core/group';
import { groupChoices } from '$server/query/groups/choices';
import { saveGroup } from '$server/query/groups/save-group';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const labels = await groupChoices(bussola().db);
  const [value] = labels.find(({ name }) => name === 'service')?.values ?? [];
  const rule = { match: 'all' as const, conditions: [{ label: 'service', is: [value?.value ?? 'machines'] }] };
  return { form: await superValidate({ name: '', rule }, zod4(groupSchema), { errors: false }), labels };
};

export const actions = {
  save: async ({ request, locals }) => {
    const form = await superValidate(request, zod4(groupSchema));
    if (!form.valid) return fail(400, { form });
    const kept = await saveGroup(bussola(), null, form.data, locals.person?.displayName ?? '');
    if (kept === 'taken' || kept === null) return setError(form, 'name', 'Another group has this name.');
    redirect(303, `/groups/${kept.id}`);
  }
} satisfies Actions;
