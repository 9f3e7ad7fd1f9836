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
