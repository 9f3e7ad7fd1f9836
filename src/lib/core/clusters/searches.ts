import { quotedSearch } from '../logs';

/** A part of a cluster by its names. */
export type ClusterPart =
  | { readonly kind: 'cluster'; readonly cluster: string }
  | { readonly kind: 'node'; readonly node: string }
  | { readonly kind: 'workload'; readonly workload: string }
  | { readonly kind: 'container'; readonly copy: string };

/** Types of resources that are parts of a cluster, and have a page in it. */
export const clusterTypes: readonly string[] = ['cluster', 'node', 'workload'];

/** Whether a resource is a part of a cluster that has a page. @example isClusterPart({ type: 'node', tags: { cluster: 'harbour-cluster' } }) // true */
export const isClusterPart = ({
  type,
  tags
}: {
  readonly type: string;
  readonly tags: Readonly<Record<string, string>>;
}): boolean => clusterTypes.includes(type) && tags['cluster'] !== undefined;

/**
 * The search for what a part of a cluster writes: of a container also what its node says of it, such as that it was killed; of a cluster only what is at least a warning.
 *
 * @example linesSearch('fleet-edge', { kind: 'container', copy: 'seatmap-2' }) // 'account = fleet-edge and (container.name = seatmap-2 or container = seatmap-2)'
 */
export function linesSearch(account: string, part: ClusterPart): string {
  const of = `account = ${quotedSearch(account)}`;
  switch (part.kind) {
    case 'cluster':
      return `${of} and cluster.name = ${quotedSearch(part.cluster)} and severity >= warn`;
    case 'node':
      return `${of} and resource = ${quotedSearch(part.node)}`;
    case 'workload':
      return `${of} and resource = ${quotedSearch(part.workload)}`;
    case 'container': {
      const copy = quotedSearch(part.copy);
      return `${of} and (container.name = ${copy} or container = ${copy})`;
    }
    default:
      throw new TypeError(`linesSearch: unknown ${JSON.stringify(part satisfies never)}`);
  }
}
