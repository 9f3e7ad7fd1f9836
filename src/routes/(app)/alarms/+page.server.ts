import { alarmSentence } from '$lib/core/alarm';
import { asksFor, picksOf } from '$lib/core/signal';
import { allAlarms, countStates } from '$server/alarms/alarms';
import { allMetrics } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [alarms, metrics, states] = await Promise.all([allAlarms(db), allMetrics(db), countStates(db)]);
  const service = url.searchParams.get('service');
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const rows = alarms.flatMap(({ id, definition, changedAt, changedBy, lastError }) => {
    const picked = picksOf(definition.signal).map(({ metric }) => metric);
    const isOf = (wanted: string) =>
      metrics.some((metric) => metric.service === wanted && picked.some((pattern) => asksFor(pattern, metric.name)));
    if (service !== null && !isOf(service)) return [];
    const count = (state: string) => states.find((row) => row.alarmId === id && row.state === state)?.count ?? 0;
    const counts = { raised: count('raised'), indeterminate: count('indeterminate'), clear: count('clear') };
    return [
      {
        id,
        name: definition.name,
        severity: definition.severity,
        sentence: alarmSentence(definition, wordsOf),
        channels: definition.channels.length,
        lastError,
        changedAt,
        changedBy,
        ...counts
      }
    ];
  });
  return { service, alarms: rows.sort((a, b) => b.raised - a.raised || b.indeterminate - a.indeterminate) };
};
