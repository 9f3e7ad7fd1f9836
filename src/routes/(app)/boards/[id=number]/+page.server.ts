import { error, redirect } from '@sveltejs/kit';
import { asksFor, picksOf } from '$lib/core/signal';
import { boardById, removeBoard } from '$server/boards/boards';
import { noSuchBoard } from '$server/boards/missing';
import { allMetrics } from '$server/intake/metrics';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:board');
  const { db } = bussola();
  const [board, metrics] = await Promise.all([boardById(db, Number(params.id)), allMetrics(db)]);
  if (board === null) error(404, noSuchBoard);
  const picks = board.panels.flatMap(({ signal }) => picksOf(signal));
  const used = metrics.filter(({ name }) => picks.some(({ metric }) => asksFor(metric, name)));
  return { board, metrics: Object.fromEntries(used.map((metric) => [metric.name, metric])) };
};

export const actions = {
  remove: async ({ params }) => {
    await removeBoard(bussola().db, Number(params.id));
    redirect(303, '/boards');
  }
} satisfies Actions;
