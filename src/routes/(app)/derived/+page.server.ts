import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { signalSentence, stepOf } from '$lib/core/signal';
import { before, day, times } from '$lib/core/time';
import { allDerived, askBackfill, derivedById, removeDerived, switchDerived } from '$server/query/derived/derived';
import { allMetrics } from '$server/inventory/metrics';
import { resting } from '$server/removals/resting';
import { bussola } from '$server/process/running';
import { usesOfMetric } from '$server/boards/signal-uses';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:derived');
  const { db } = bussola();
  const [derived, metrics] = await Promise.all([allDerived(db), allMetrics(db)]);
  const metricOf = (name: string) => metrics.find((metric) => metric.name === name);
  return {
    derived: await Promise.all(
      derived.map(async ({ definition, ...one }) => ({
        ...one,
        sentence: signalSentence(definition, metricOf, { unit: metricOf(one.metric)?.unit ?? '1' }),
        stepMs: stepOf(definition),
        signal: JSON.stringify(definition),
        uses: (await usesOfMetric(db, one.metric)).map(({ name }) => name)
      }))
    )
  };
};

const formSchema = z.object({
  id: z.coerce.number().pipe(idSchema),
  days: z.coerce.number().int().min(1).max(400).default(14)
});

/** Reads a form of this page and does something with the metric it names. */
const withMetric =
  (work: (id: number, days: number, by: string) => Promise<void>) =>
  async ({ request, locals }: { request: Request; locals: App.Locals }) => {
    const read = formSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!read.success) return fail(400, { problem: 'The form cannot be read. Load the page again.' });
    if ((await derivedById(bussola().db, read.data.id)) === null)
      return fail(404, { problem: 'This metric is no longer there. It may have been removed meanwhile.' });
    await work(read.data.id, read.data.days, locals.person?.displayName ?? '');
    return {};
  };

export const actions = {
  on: withMetric((id) => switchDerived(bussola().db, id, true)),
  off: withMetric((id) => switchDerived(bussola().db, id, false)),
  backfill: withMetric((id, days) => {
    const { db, clock } = bussola();
    return askBackfill(db, id, before(clock.now(), times(days, day)), clock.now());
  }),
  remove: withMetric((id, _days, by) =>
    resting(bussola(), { kind: 'derived', id, by }, (inner) => removeDerived(inner.db, id))
  )
} satisfies Actions;
