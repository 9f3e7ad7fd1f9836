import { groupsOf, isClusterPart, type ClusterPart, type Container, type ContainerGroup } from '$lib/core/clusters';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allResources, resourceById, type Resource } from '../inventory/resources';
import { containersAt, nodesAt, type NodeNumbers, type NumbersContext } from './containers-now';

/** A resource that is part of a cluster, with the names that its page needs. */
export interface PartOfCluster {
  readonly resource: Resource;
  readonly account: string;
  readonly cluster: string;
  readonly part: ClusterPart;
}

/** A resource as a part of its cluster; null for what is none. */
export async function partOfCluster(db: Queryable, id: number): Promise<PartOfCluster | null> {
  const resource = await resourceById(db, id);
  const cluster = resource?.tags['cluster'];
  if (resource === null || cluster === undefined || !isClusterPart(resource)) return null;
  const part: ClusterPart =
    resource.type === 'cluster'
      ? { kind: 'cluster', cluster }
      : resource.type === 'node'
        ? { kind: 'node', node: resource.name }
        : { kind: 'workload', workload: resource.name };
  return { resource, account: resource.account, cluster, part };
}

/** The page of a resource in its cluster, of a container where its labels name one; null for what is no part of a cluster. @example await clusterHref(db, 81, { copy: 'seatmap-2' }) // '/clusters/81/seatmap-2' */
export async function clusterHref(
  db: Queryable,
  resourceId: number | null,
  { copy }: Readonly<Record<string, string>>
): Promise<string | null> {
  const found = resourceId === null ? null : await partOfCluster(db, resourceId);
  if (found === null) return null;
  const path = `/clusters/${found.resource.id}`;
  return copy === undefined || found.part.kind !== 'workload' ? path : `${path}/${encodeURIComponent(copy)}`;
}

/** A node with what it has, and what runs on it. */
export interface NodeRow extends ContainerGroup, NodeNumbers {
  readonly id: number | null;
}

/** A workload with its containers. */
export interface WorkloadRow extends ContainerGroup {
  readonly id: number | null;
  readonly namespace: string;
}

/** Everything of a cluster as it was at an instant. */
export interface ClusterView {
  readonly id: number | null;
  readonly nodes: readonly NodeRow[];
  readonly workloads: readonly WorkloadRow[];
  readonly containers: readonly Container[];
}

/**
 * A whole cluster as it was at an instant: its nodes with what they have and what their containers request, its workloads, its containers.
 *
 * @param known all resources that are there, where they were read before
 * @example (await clusterAt(server, { account: 'fleet-edge', cluster: 'harbour-cluster' }, now)).nodes[0].memory
 */
export async function clusterAt(
  context: NumbersContext,
  { account, cluster }: Pick<PartOfCluster, 'account' | 'cluster'>,
  at: Instant,
  known: Promise<readonly Resource[]> | readonly Resource[] = allResources(context.db)
): Promise<ClusterView> {
  const [containers, nodes, resources] = await Promise.all([
    containersAt(context, { account, cluster }, at),
    nodesAt(context, { account, cluster }, at),
    known
  ]);
  const own = resources.filter((one) => one.account === account && one.tags['cluster'] === cluster);
  const idOf = (type: string, name: string) => own.find((one) => one.type === type && one.name === name) ?? null;
  const names = (type: string) => own.filter((one) => one.type === type).map(({ name }) => name);
  const nothing = { used: null, requested: null, limit: null };
  return {
    id: own.find(({ type }) => type === 'cluster')?.id ?? null,
    nodes: groupsOf(containers, 'node', names('node')).map((group) => {
      const has = nodes.get(group.name) ?? { processor: nothing, memory: nothing };
      return {
        ...group,
        id: idOf('node', group.name)?.id ?? null,
        processor: { ...has.processor, requested: group.processor.requested },
        memory: { ...has.memory, requested: group.memory.requested }
      };
    }),
    workloads: groupsOf(containers, 'workload', names('workload')).map((group) => {
      const resource = idOf('workload', group.name);
      return { ...group, id: resource?.id ?? null, namespace: resource?.tags['namespace'] ?? '' };
    }),
    containers
  };
}

/** The clusters among resources, in their order. */
export const clustersIn = (resources: readonly Resource[]): Resource[] =>
  resources.filter(({ type, tags }) => type === 'cluster' && tags['cluster'] !== undefined);
