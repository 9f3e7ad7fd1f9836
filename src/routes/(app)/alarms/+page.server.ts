import { alarmSentence } from '$lib/core/alarm';
import { requirePlainPick } from '$lib/core/signal';
import { allAlarms, countStates } from '$server/alarms/alarms';
import { allMetrics } from '$server/intake/resources';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [alarms, metrics, states] = await Promise.all([allAlarms(db), allMetrics(db), countStates(db)]);
  const service = url.searchParams.get('service');
  const rows = alarms.flatMap(({ id, definition, changedAt, changedBy }) => {
    const metric = metrics.find(({ name }) => name === requirePlainPick(definition.signal).metric);
    if (!metric || (service !== null && metric.service !== service)) return [];
    const count = (state: string) => states.find((row) => row.alarmId === id && row.state === state)?.count ?? 0;
    const counts = { raised: count('raised'), indeterminate: count('indeterminate'), clear: count('clear') };
    return [
      {
        id,
        name: definition.name,
        severity: definition.severity,
        sentence: alarmSentence(definition, metric),
        channels: definition.channels.length,
        changedAt,
        changedBy,
        ...counts
      }
    ];
  });
  return { service, alarms: rows.sort((a, b) => b.raised - a.raised || b.indeterminate - a.indeterminate) };
};
