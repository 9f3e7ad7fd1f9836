import { clusterMetrics, type Container, type Use } from '$lib/core/clusters';
import type { Signal, Worked } from '$lib/core/signal';
import { after, day, duration, hour, minute, range, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { metricNames } from '../inventory/metrics';
import { resolveSignal, stockFor, workOf } from '../query/signals/resolve';
import type { AskedWork } from '../query/signals/work';

/** What reading numbers needs. */
export interface NumbersContext {
  readonly db: Queryable;
  readonly evaluator: { evaluateAll(asked: readonly AskedWork[]): Promise<Worked[]> };
}

/** A cluster of an account, by their names. */
export interface ClusterName {
  readonly account: string;
  readonly cluster: string;
}

/** The newest number of so long counts as what is so now. */
const lookBack = times(10, minute);
/** Restarts are counted over so long. */
const restartsOver = day;

/** Labels of a series, with its newest number. */
export interface LabelledNumber {
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** The cell of the newest number: of two the later one is newer. */
  readonly cell: number;
}

interface Asked {
  readonly metric: string;
  readonly statistic: 'avg' | 'rate' | 'increase';
  readonly by: readonly string[];
  /** UCUM code of the unit it is wanted in; as it comes by default. */
  readonly unit?: string;
}

/**
 * Numbers of the parts of a cluster as they were at an instant, one list for each that is asked for: the newest of ten minutes, of increases the sum of a day.
 *
 * @example await numbersAt(server, { account, cluster }, [{ metric: 'host_memory_ratio', statistic: 'avg', by: ['node'] }], now)
 */
export async function numbersAt(
  { db, evaluator }: NumbersContext,
  { account, cluster }: ClusterName,
  asked: readonly Asked[],
  at: Instant
): Promise<LabelledNumber[][]> {
  const signals = asked.map(({ metric, statistic, by, unit }): Signal => ({
    version: 2,
    ...(unit !== undefined && { unit }),
    step: statistic === 'increase' ? 'PT1H' : 'PT1M',
    rows: [
      {
        name: 'a',
        metric,
        where: [
          { label: 'account', is: [account] },
          { label: 'tag.cluster', is: [cluster] }
        ],
        statistic,
        combine: { statistic: statistic === 'increase' ? 'sum' : 'avg', by: [...by] }
      }
    ]
  }));
  // Not every cluster reports all of them: an older one has no requests.
  const known = new Set(await metricNames(db));
  const readable = [...signals.keys()].filter((index) => known.has(asked[index]?.metric ?? ''));
  const stock = await stockFor(db, signals);
  const works = await Promise.all(
    readable.map(async (index): Promise<AskedWork> => {
      const signal = signals[index] as Signal;
      const isSum = asked[index]?.statistic === 'increase';
      const step = isSum ? hour : minute;
      const from = (Math.floor((at - (isSum ? restartsOver : lookBack)) / step) * step) as Instant;
      return {
        work: workOf(await resolveSignal(db, signal, stock), at),
        span: range(from, after(at, duration(1))),
        step
      };
    })
  );
  const worked = await evaluator.evaluateAll(works);
  const found = new Map(readable.map((index, place) => [index, worked[place]]));
  return asked.map(({ statistic }, index) => {
    const one = found.get(index);
    if (one?.kind !== 'worked') return [];
    return (one.rows[0]?.columns ?? []).flatMap(({ labels, values }) => {
      const cell = values.findLastIndex(Number.isFinite);
      if (cell < 0) return [];
      const sum = () => values.filter(Number.isFinite).reduce((total, value) => total + value, 0);
      return [{ labels, cell, value: statistic === 'increase' ? sum() : (values[cell] as number) }];
    });
  });
}

/** Every container of a cluster that was heard of in the ten minutes before an instant, by name. */
export async function containersAt(context: NumbersContext, name: ClusterName, at: Instant): Promise<Container[]> {
  const { memory, processor, restarts } = clusterMetrics;
  const by = ['workload', 'copy', 'node'];
  const avg = (metric: string): Asked => ({ metric, statistic: 'avg', by });
  const [memoryUsed, memoryRequested, memoryLimit, cores, coresRequested, coresLimit, restarted] = await numbersAt(
    context,
    name,
    [
      ...[avg(memory.used), avg(memory.requested), avg(memory.limit)],
      { metric: processor.used, statistic: 'rate', by },
      ...[avg(processor.requested), avg(processor.limit)],
      { metric: restarts, statistic: 'increase', by: ['workload', 'copy'] }
    ],
    at
  );
  const keyOf = ({ workload = '', copy = '' }: LabelledNumber['labels']): string => `${workload}/${copy}`;
  /** Of each container the newest: one that was moved was on two nodes in these ten minutes. */
  const newestOf = (numbers: readonly LabelledNumber[] = []) =>
    new Map([...numbers].sort((a, b) => a.cell - b.cell).map((one) => [keyOf(one.labels), one]));
  const mapOf = (numbers?: readonly LabelledNumber[]) =>
    new Map([...newestOf(numbers)].map(([key, { value }]) => [key, value]));
  const [requested, limits] = [mapOf(memoryRequested), mapOf(memoryLimit)];
  const [used, requestedCores, limitCores] = [mapOf(cores), mapOf(coresRequested), mapOf(coresLimit)];
  const counts = mapOf(restarted);
  return [...newestOf(memoryUsed).values()]
    .map(({ labels, value }): Container => {
      const key = keyOf(labels);
      const memoryUse: Use = { used: value, requested: requested.get(key) ?? null, limit: limits.get(key) ?? null };
      return {
        ...{ copy: labels['copy'] ?? '', workload: labels['workload'] ?? '', node: labels['node'] ?? '' },
        memory: memoryUse,
        processor: {
          used: used.get(key) ?? null,
          requested: requestedCores.get(key) ?? null,
          limit: limitCores.get(key) ?? null
        },
        restarts: Math.round(counts.get(key) ?? 0)
      };
    })
    .sort((a, b) => (a.copy < b.copy ? -1 : 1));
}
type Numbers = ReadonlyMap<string, number>;

/** What a node has, and how much of it is in use. */
export interface NodeNumbers {
  readonly processor: Use;
  readonly memory: Use;
}

/** Numbers of the nodes of a cluster by their names: in use of what they have, without what is requested, which their containers say. */
export async function nodesAt(
  context: NumbersContext,
  name: ClusterName,
  at: Instant
): Promise<ReadonlyMap<string, NodeNumbers>> {
  const { node } = clusterMetrics;
  const askedOf = (metric: string, unit?: string): Asked => ({
    ...{ metric, statistic: 'avg', by: ['node'] },
    ...(unit !== undefined && { unit })
  });
  const asked = [
    // Shares, as numbers from 0 to 1.
    ...[node.processor, node.memory].map((metric) => askedOf(metric, '1')),
    ...[node.processorCapacity, node.memoryCapacity].map((metric) => askedOf(metric))
  ];
  const mapOf = (numbers: readonly LabelledNumber[] = []): Numbers =>
    new Map(numbers.map(({ labels, value }) => [labels['node'] ?? '', value]));
  const found = await numbersAt(context, name, asked, at);
  const [processor, memory] = [mapOf(found[0]), mapOf(found[1])];
  const [cores, bytes] = [mapOf(found[2]), mapOf(found[3])];
  const of = (shares: Numbers, capacity: Numbers, nodeName: string): Use => {
    const [share, limit] = [shares.get(nodeName), capacity.get(nodeName) ?? null];
    return { used: share === undefined || limit === null ? null : share * limit, requested: null, limit };
  };
  const names = new Set([...processor.keys(), ...memory.keys(), ...cores.keys()]);
  return new Map(
    [...names].map((one) => [one, { processor: of(processor, cores, one), memory: of(memory, bytes, one) }])
  );
}
