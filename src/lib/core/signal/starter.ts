import type { Statistic } from '../series';
import { isPick, plainSignal, type Signal } from './schema';

/** A panel of a ready board. */
export interface StarterPanel {
  readonly id: string;
  readonly title: string;
  readonly picture: 'lines' | 'busiest';
  /** Name of the metric that the signal is about. */
  readonly metric: string;
  readonly signal: Signal;
}

const signal = (metric: string, statistic: Statistic = 'avg'): Signal => plainSignal({ metric, statistic });

const on = (metric: string) => ({ metric, signal: signal(metric) });

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
 * The ready board of a service: for machines the one below, else a panel for each of its first recommended metrics. A running total is drawn as its rate, since
 * raw it tells nothing; a metric that comes hours late is left out.
 *
 * @example starterOf('queues', metrics).map(({ title }) => title) // ['Age of the oldest message', …]
 */
export function starterOf(service: string, metrics: readonly StarterMetric[]): readonly StarterPanel[] {
  if (service === 'machines')
    return machinesStarter.filter(({ metric }) => metrics.some(({ name }) => name === metric));
  return metrics
    .filter(({ recommended, delayMs }) => recommended && delayMs < 600_000)
    .slice(0, mostPanels)
    .map(({ name, title, kind }) => ({
      id: name,
      title,
      picture: 'lines',
      metric: name,
      signal: signal(name, kind === 'delta' ? 'sum' : kind === 'cumulative' ? 'rate' : 'avg')
    }));
}

/** The ready board of the service *machines*, in reading order. */
export const machinesStarter: readonly StarterPanel[] = [
  { id: 'processor', title: 'Processor use', picture: 'lines', ...on('machine.processor.use') },
  { id: 'busiest', title: 'Busiest machine now', picture: 'busiest', ...on('machine.processor.use') },
  { id: 'memory', title: 'Memory use', picture: 'lines', ...on('machine.memory.use') },
  { id: 'network-out', title: 'Network out', picture: 'lines', ...on('machine.network.out') }
];

/**
 * A signal whose picks are all narrowed to an account; null leaves it as it is.
 *
 * @example narrowed(signal, 'corallo-prod').rows[0].where // [{ label: 'account', is: ['corallo-prod'] }]
 */
export const narrowed = (wide: Signal, account: string | null): Signal =>
  account === null
    ? wide
    : {
        ...wide,
        rows: wide.rows.map((row) =>
          isPick(row)
            ? {
                ...row,
                where: [...row.where.filter(({ label }) => label !== 'account'), { label: 'account', is: [account] }]
              }
            : row
        )
      };
