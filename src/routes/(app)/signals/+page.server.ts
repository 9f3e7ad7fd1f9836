import { fail } from '@sveltejs/kit';
import { idFrom } from '$lib/core/forms/id';
import { signalSentence } from '$lib/core/signal';
import { allMetrics } from '$server/inventory/metrics';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import { allSignals, removeSignal } from '$server/query/signals/signals';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const { db } = bussola();
  const [signals, metrics] = await Promise.all([allSignals(db), allMetrics(db)]);
  const metricOf = (name: string) => metrics.find((metric) => metric.name === name);
  return {
    signals: signals.map(({ id, name, definition, changedAt, changedBy }) => ({
      id,
      name,
      sentence: signalSentence(definition, metricOf),
      changedAt,
      changedBy
    }))
  };
};

export const actions = {
  remove: async ({ request, locals }) => {
    const id = idFrom((await request.formData()).get('id'));
    if (id === null) return fail(400, { problem: 'There is no such signal.' });
    await resting(bussola(), { kind: 'signals', id, by: locals.person?.displayName ?? '' }, ({ db }) =>
      removeSignal(db, id)
    );
    return { problem: null };
  }
} satisfies Actions;
