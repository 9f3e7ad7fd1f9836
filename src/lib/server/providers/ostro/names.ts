/** Measures that mean the same as a metric other providers report; everything else is named by its kind and measure. */
const shared: Readonly<Record<string, string>> = {
  'machine/processor': 'machine.processor.use',
  'machine/memory': 'machine.memory.use',
  'machine/network-in': 'machine.network.in',
  'machine/network-out': 'machine.network.out',
  'machine/filesystem': 'machine.filesystem.use',
  'database/statements': 'database.statements',
  'database/read-latency': 'database.read.latency',
  'database/processor': 'database.processor.use',
  'database/storage': 'database.storage.use'
};

/** The metric a measure is. @example metricOf('object-store', 'size') // 'object-store.size' */
export const metricOf = (kind: string, measure: string): string => shared[`${kind}/${measure}`] ?? `${kind}.${measure}`;

/** The measure behind a metric; the inverse of {@link metricOf}. @example measureOf('machine', 'machine.processor.use') // 'processor' */
export function measureOf(kind: string, metric: string): string {
  const known = Object.entries(shared).find(([place, name]) => name === metric && place.startsWith(`${kind}/`));
  return known ? (known[0].split('/')[1] as string) : metric.slice(kind.length + 1);
}
