import { machinesStarter } from '$lib/core/signal';
import { allAlarms } from '$server/alarms/alarms';
import { allAccounts } from '$server/intake/accounts';
import { allMetrics } from '$server/intake/resources';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:board');
  const { db } = bussola();
  const [metrics, accounts, alarms] = await Promise.all([allMetrics(db), allAccounts(db), allAlarms(db)]);
  return {
    panels: machinesStarter.filter(({ signal }) => metrics.some(({ name }) => name === signal.metric)),
    metrics: Object.fromEntries(metrics.map((metric) => [metric.name, metric])),
    accounts: accounts.map(({ name, historyFrom, historyReached, discoveredAt, createdAt }) => ({
      name,
      historyFrom,
      historyReached,
      discoveredAt,
      createdAt
    })),
    limits: alarms.map(({ id, definition: { signal, rule, severity, name } }) => ({
      id,
      name,
      metric: signal.metric,
      threshold: rule.condition.threshold,
      severity
    }))
  };
};
