import { meaningOf, type Exposition } from '$lib/core/openmetrics';
import { serviceOfType } from '$lib/core/services';
import type { FoundMetric, FoundResource } from '../port/provider';
import type { Cluster } from './call';
import { identityOf } from './identity';

/** The resources a page speaks of: its cluster, and the node, workload or gateway that its labels name. */
export function resourcesOf(cluster: Cluster, { samples }: Exposition): FoundResource[] {
  const guest = cluster.workloadMetrics ? 'on' : 'off';
  const found = new Map<string, FoundResource>([
    [
      cluster.id,
      {
        providerId: cluster.id,
        name: cluster.title,
        type: 'cluster',
        service: serviceOfType('cluster'),
        region: cluster.location,
        tags: { cluster: cluster.title },
        guest,
        formerNames: []
      }
    ]
  ]);
  for (const { labels, family } of samples) {
    const { providerId, name, type } = identityOf(cluster.id, labels);
    if (providerId === cluster.id) continue;
    const known = found.get(providerId);
    const info = family.type === 'info' ? labels : {};
    const tags = {
      ...known?.tags,
      cluster: cluster.title,
      ...(labels['namespace'] === undefined ? {} : { namespace: labels['namespace'] }),
      ...info
    };
    found.set(providerId, {
      providerId,
      name,
      type,
      service: serviceOfType(type),
      region: cluster.location,
      tags,
      guest: type === 'workload' ? 'on' : 'none',
      formerNames: []
    });
  }
  return [...found.values()];
}

/** The metrics of a page, each with the type of resource whose labels it has. */
export function metricsOf({ samples }: Exposition): FoundMetric[] {
  const found = new Map<string, FoundMetric>();
  for (const sample of samples) {
    const meaning = meaningOf(sample);
    if (meaning === null || found.has(meaning.metric)) continue;
    const { type } = identityOf('', sample.labels);
    found.set(meaning.metric, {
      name: meaning.metric,
      title: titleOf(meaning.metric),
      description: sample.family.help,
      unit: meaning.unit,
      kind: meaning.kind,
      shape: 'single',
      resourceType: type,
      service: serviceOfType(type),
      recommended: true,
      level: 'host',
      samplingMs: 15_000,
      delayMs: 0
    });
  }
  return [...found.values()];
}

/** @example titleOf('workload_memory_bytes') // 'Workload memory' */
function titleOf(metric: string): string {
  const words = metric.replace(/_(bytes|seconds|ratio)$/, '').replaceAll('_', ' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}
