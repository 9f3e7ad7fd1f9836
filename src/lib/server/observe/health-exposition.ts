import { writeExposition, type WrittenFamily } from '$lib/core/openmetrics';
import { healthMetrics, type HealthMetric } from '../intake/own/health-metrics';

/** What OpenMetrics calls units; others are none of its. */
const units: Readonly<Record<string, string>> = { s: 'seconds', By: 'bytes' };

/**
 * What was read of the process, as OpenMetrics text.
 *
 * @example healthExposition(new Map([['bussola.memory', 3e8]]), '0.1.0') // '# TYPE bussola info … # EOF\n'
 */
export function healthExposition(read: ReadonlyMap<string, number>, version: string): string {
  return writeExposition([
    {
      ...{ name: 'bussola', type: 'info', unit: '', help: 'Which Bussola this is.' },
      samples: [{ labels: { version }, value: 1 }]
    },
    ...healthMetrics.map((metric) => familyOf(metric, read.get(metric.name)))
  ]);
}

function familyOf({ name, unit, kind, description }: HealthMetric, value: number | undefined): WrittenFamily {
  const named = units[unit] ?? '';
  return {
    name: [name.replaceAll('.', '_'), ...(named === '' ? [] : [named])].join('_'),
    type: kind === 'cumulative' ? 'counter' : 'gauge',
    unit: named,
    help: description,
    samples: value === undefined ? [] : [{ labels: {}, value }]
  };
}
