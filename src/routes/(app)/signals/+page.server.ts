import { signalSentence } from '$lib/core/signal';
import { allMetrics } from '$server/intake/metrics';
import { bussola } from '$server/running';
import { allSignals, removeSignal } from '$server/signals/signals';
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
  remove: async ({ request }) => {
    const id = Number((await request.formData()).get('id'));
    await removeSignal(bussola().db, id);
  }
} satisfies Actions;
