import { error } from '@sveltejs/kit';
import { starterBoard, starterKeys } from '$lib/core/board/starters';
import { serviceByKey } from '$lib/core/services';
import { shownWith } from '$server/boards/shown';
import { allAccounts } from '$server/inventory/accounts';
import { metricsWithUse } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, params }) => {
  depends('bussola:board');
  const server = bussola();
  const { service } = params;
  const [metrics, accounts] = await Promise.all([metricsWithUse(server.db), allAccounts(server.db)]);
  const own = service === 'watch' ? metrics : metrics.filter((metric) => metric.service === service);
  if (own.length === 0 && metrics.length > 0 && !starterKeys.includes(service))
    error(404, { message: 'There is no such service here.', remedy: 'Choose one in the index.' });
  const { board, lacks } = starterBoard(service, own);
  const titles = new Map(metrics.map(({ name, title }) => [name, title]));
  return {
    service,
    several: serviceByKey(service).several,
    board,
    /** Metrics that the board would show too, by the titles that they have where they are known. */
    lacks: [...new Set(lacks.map((name) => titles.get(name) ?? name))],
    accounts: accounts.map(({ name, historyLeftMs, historyWholeMs }) => ({ name, historyLeftMs, historyWholeMs })),
    ...(await shownWith(server, board))
  };
};
