import type { Signal } from './schema';

/** A panel of a ready board. */
export interface StarterPanel {
  readonly id: string;
  readonly title: string;
  readonly picture: 'lines' | 'busiest';
  readonly signal: Signal;
}

const signal = (metric: string, statistic: Signal['statistic'] = 'avg'): Signal => ({
  version: 1,
  metric,
  where: [],
  step: 'PT1M',
  statistic
});

/** What a starter looks at of a metric. */
export interface StarterMetric {
  readonly name: string;
  readonly title: string;
  readonly kind: string;
  readonly recommended: boolean;
  readonly delayMs: number;
}

/** Panels that a board begins with at most. */
const mostPanels = 6;

/**
 * The ready board of a service: for machines the one below, else a panel for each of its first recommended metrics. A cumulative metric is left out, since a
 * running total drawn raw tells nothing; so is one that comes hours late.
 *
 * @example starterOf('queues', metrics).map(({ title }) => title) // ['Age of the oldest message', …]
 */
export function starterOf(service: string, metrics: readonly StarterMetric[]): readonly StarterPanel[] {
  if (service === 'machines')
    return machinesStarter.filter(({ signal: { metric } }) => metrics.some(({ name }) => name === metric));
  return metrics
    .filter(({ kind, recommended, delayMs }) => kind !== 'cumulative' && recommended && delayMs < 600_000)
    .slice(0, mostPanels)
    .map(({ name, title, kind }) => ({
      id: name,
      title,
      picture: 'lines',
      signal: signal(name, kind === 'delta' ? 'sum' : 'avg')
    }));
}

/** The ready board of the service *machines*, in reading order. */
export const machinesStarter: readonly StarterPanel[] = [
  { id: 'processor', title: 'Processor use', picture: 'lines', signal: signal('machine.processor.use') },
  { id: 'busiest', title: 'Busiest machine now', picture: 'busiest', signal: signal('machine.processor.use') },
  { id: 'memory', title: 'Memory use', picture: 'lines', signal: signal('machine.memory.use') },
  { id: 'network-out', title: 'Network out', picture: 'lines', signal: signal('machine.network.out') }
];

/**
 * A signal narrowed to an account; null leaves it as it is.
 *
 * @example narrowed(signal, 'corallo-prod').where // [{ label: 'account', is: ['corallo-prod'] }]
 */
export const narrowed = (wide: Signal, account: string | null): Signal =>
  account === null
    ? wide
    : {
        ...wide,
        where: [...wide.where.filter(({ label }) => label !== 'account'), { label: 'account', is: [account] }]
      };
