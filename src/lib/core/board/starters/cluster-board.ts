import { clusterMetrics, linesSearch, type ClusterPart } from '../../clusters';
import type { LabelCondition, Signal } from '../../signal';
import { added, inPercent, log, metric, overTime, row, signal, type StarterPart } from './parts';

/** Where a part of a cluster is, besides its own name. */
export interface ClusterPlace {
  readonly account: string;
  readonly cluster: string;
}

const { memory, processor, restarts, requests, node } = clusterMetrics;

/**
 * The panels of a part of a cluster: what it uses against request and limit, restarts, and its lines.
 *
 * @example clusterParts({ account: 'fleet-edge', cluster: 'harbour-cluster' }, { kind: 'container', copy: 'seatmap-2' })
 */
export function clusterParts({ account, cluster }: ClusterPlace, part: ClusterPart): StarterPart[] {
  const within: LabelCondition[] = [
    { label: 'account', is: [account] },
    { label: 'tag.cluster', is: [cluster] },
    ...own(part)
  ];
  const narrowed = (of: Signal): Signal => ({
    ...of,
    rows: of.rows.map((one) => ('metric' in one ? { ...one, where: [...one.where, ...within] } : one))
  });
  /** What is used of what was set aside and of what is allowed, as three lines. */
  const against = (names: typeof memory | typeof processor, statistic: 'avg' | 'rate'): Signal =>
    narrowed(
      signal(
        [
          row('used', names.used, { statistic, combine: added() }),
          row('requested', names.requested, { combine: added() }),
          row('limit', names.limit, { combine: added() })
        ],
        { show: ['used', 'requested', 'limit'] }
      )
    );
  const byCopy = (name: string, statistic: 'avg' | 'rate' | 'increase'): Signal =>
    narrowed(metric(name, { statistic, combine: added('copy') }));
  const lines = log('Its lines', linesSearch(account, part), [12, 5]);
  switch (part.kind) {
    case 'cluster':
    case 'node':
      return [
        overTime('Processor of its nodes', narrowed(inPercent(node.processor)), [6, 4]),
        overTime('Memory of its nodes', narrowed(inPercent(node.memory)), [6, 4]),
        overTime(
          'Memory by workload',
          narrowed(metric(memory.used, { combine: added('resource') })),
          [6, 4],
          'stacked'
        ),
        overTime(
          'Restarts',
          narrowed(metric(restarts, { statistic: 'increase', combine: added('resource') })),
          [6, 4],
          'bars'
        ),
        lines
      ].map((panel) => (part.kind === 'node' ? ofOne(panel) : panel));
    case 'workload':
      return [
        overTime('Memory of each container', byCopy(memory.used, 'avg'), [6, 4]),
        overTime('Processor of each container', byCopy(processor.used, 'rate'), [6, 4]),
        overTime('Restarts', byCopy(restarts, 'increase'), [6, 4], 'bars'),
        overTime(
          'Requests',
          narrowed(metric(requests, { statistic: 'rate', combine: added('outcome') })),
          [6, 4],
          'stacked'
        ),
        lines
      ];
    case 'container':
      return [
        overTime('Memory against request and limit', against(memory, 'avg'), [6, 4]),
        overTime('Processor against request and limit', against(processor, 'rate'), [6, 4]),
        overTime('Restarts', byCopy(restarts, 'increase'), [6, 3], 'bars'),
        overTime('Requests', narrowed(metric(requests, { statistic: 'rate', combine: added('outcome') })), [6, 3]),
        lines
      ];
    default:
      throw new TypeError(`clusterParts: unknown ${JSON.stringify(part satisfies never)}`);
  }
}

/** The condition by which series are of a part alone. */
function own(part: ClusterPart): LabelCondition[] {
  switch (part.kind) {
    case 'cluster':
      return [];
    case 'node':
      return [{ label: 'node', is: [part.node] }];
    case 'workload':
      return [{ label: 'workload', is: [part.workload] }];
    case 'container':
      return [{ label: 'copy', is: [part.copy] }];
    default:
      throw new TypeError(`own: unknown ${JSON.stringify(part satisfies never)}`);
  }
}

/** A panel of a node's own: it has one node. */
const ofOne = (panel: StarterPart): StarterPart => ({
  ...panel,
  content: { ...panel.content, title: panel.content.title.replace(' of its nodes', '') }
});

/** The title of the board of a part. @example partName({ kind: 'node', node: 'harbour-n1' }) // 'harbour-n1' */
export function partName(part: ClusterPart): string {
  switch (part.kind) {
    case 'cluster':
      return part.cluster;
    case 'node':
      return part.node;
    case 'workload':
      return part.workload;
    case 'container':
      return part.copy;
    default:
      throw new TypeError(`partName: unknown ${JSON.stringify(part satisfies never)}`);
  }
}
