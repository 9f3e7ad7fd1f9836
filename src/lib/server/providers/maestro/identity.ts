/** Which resource a line of a cluster's page speaks of, and the labels that are left for its series. */
export interface Identity {
  readonly providerId: string;
  readonly name: string;
  readonly type: 'cluster' | 'node' | 'workload' | 'gateway';
  readonly rest: Record<string, string>;
}

/**
 * Reads a line's labels: a workload is named by namespace and workload, a node and a gateway by theirs; without such a label it is the cluster itself.
 *
 * @example identityOf('harbour-cluster', { node: 'n1', direction: 'in' }) // { providerId: 'harbour-cluster/node/n1', name: 'n1', type: 'node', rest: { direction: 'in', node: 'n1' } }
 */
export function identityOf(cluster: string, labels: Readonly<Record<string, string>>): Identity {
  const { namespace, workload, node, gateway, ...others } = labels;
  // Node and workload stay labels of the series too, so that one picker narrows nodes and what runs on them.
  const rest = { ...others, ...(node === undefined ? {} : { node }), ...(workload === undefined ? {} : { workload }) };
  if (workload !== undefined)
    return { providerId: `${cluster}/workload/${namespace ?? ''}/${workload}`, name: workload, type: 'workload', rest };
  if (node !== undefined) return { providerId: `${cluster}/node/${node}`, name: node, type: 'node', rest };
  if (gateway !== undefined)
    return { providerId: `${cluster}/gateway/${gateway}`, name: gateway, type: 'gateway', rest };
  return {
    providerId: cluster,
    name: cluster,
    type: 'cluster',
    rest: { ...rest, ...(namespace === undefined ? {} : { namespace }) }
  };
}
