import { json } from '@sveltejs/kit';
import { bussola } from '$server/process/running';
import { usesOfMetric } from '$server/boards/signal-uses';
import type { RequestHandler } from './$types';

/** One metric: what it is, where it exists, and what uses it. */
export const GET: RequestHandler = async ({ params }) => {
  const { db, catalogue } = bussola();
  const entry = (await catalogue.search()).entries.find(({ name }) => name === params.name);
  if (!entry)
    return json(
      { message: `There is no metric named ${params.name}.`, remedy: 'Look for it in the catalogue.' },
      { status: 404 }
    );
  return json({ ...entry, uses: await usesOfMetric(db, entry.name) });
};
