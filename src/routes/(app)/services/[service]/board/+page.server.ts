import { error } from '@sveltejs/kit';
import { serviceByKey } from '$lib/core/services';
import { plainPick, starterOf } from '$lib/core/signal';
import { allAlarms } from '$server/alarms/alarms';
import { allAccounts } from '$server/intake/accounts';
import { allMetrics } from '$server/intake/metrics';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, params }) => {
  depends('bussola:board');
  const { db } = bussola();
  const [metrics, accounts, alarms] = await Promise.all([allMetrics(db), allAccounts(db), allAlarms(db)]);
  const panels = starterOf(
    params.service,
    metrics.filter(({ service }) => service === params.service)
  );
  if (panels.length === 0 && metrics.length > 0 && params.service !== 'machines')
    error(404, { message: 'There is no such service here.', remedy: 'Choose one in the index.' });
  const { title, one, several } = serviceByKey(params.service);
  return {
    words: { title, one, several },
    panels,
    metrics: Object.fromEntries(metrics.map((metric) => [metric.name, metric])),
    accounts: accounts.map(({ name, historyLeftMs, historyWholeMs }) => ({ name, historyLeftMs, historyWholeMs })),
    limits: alarms.flatMap(({ id, definition: { signal, rule, severity, name } }) => {
      const pick = plainPick(signal);
      return pick ? [{ id, name, metric: pick.metric, threshold: rule.condition.threshold, severity }] : [];
    })
  };
};
