import { dailyWaveUntil, loadOf } from '../world/load';
import { rounded, seriesKey, unitNoise, wander } from '../world/noise';
import { countMetric } from '../world/acts';
import { stressAt, type Stress } from '../world/stress';
import { lastRestart, silentGateway } from '../world/troubles';
import { nodeCores, nodeMemory, type Cluster, type Workload } from './world';

/** What the numbers of a whole Maestro depend on. */
export interface MaestroWorld {
  readonly seed: number;
  /** The moment the planted troubles count from. */
  readonly start: number;
  readonly stresses: readonly Stress[];
}

/** A metric family of a page. */
export interface Family {
  readonly name: string;
  readonly type: 'gauge' | 'counter' | 'info';
  readonly unit: string;
  readonly help: string;
  /** Workload-level families are left out until they are switched on. */
  readonly workloadLevel: boolean;
}

const family = (name: string, type: Family['type'], unit: string, help: string, workloadLevel = false): Family => ({
  name,
  type,
  unit,
  help,
  workloadLevel
});

export const families: readonly Family[] = [
  family('cluster_copies_ready', 'gauge', '', 'Copies of workloads that are ready.'),
  family('host_processor_ratio', 'gauge', 'ratio', 'Share of the node’s processor time in use.'),
  family('host_memory_ratio', 'gauge', 'ratio', 'Share of the node’s memory in use.'),
  family('host_processor_capacity', 'gauge', '', 'Cores the node has.'),
  family('host_memory_capacity_bytes', 'gauge', 'bytes', 'Memory the node has.'),
  family('host_network_bytes', 'counter', 'bytes', 'Bytes the node sent and received.'),
  family('workload', 'info', '', 'What is known of a workload.', true),
  family('workload_processor_seconds', 'counter', 'seconds', 'Processor time a copy has used since it started.', true),
  family('workload_memory_bytes', 'gauge', 'bytes', 'Memory a copy uses.', true),
  family('workload_memory_request_bytes', 'gauge', 'bytes', 'Memory set aside for a copy.', true),
  family('workload_memory_limit_bytes', 'gauge', 'bytes', 'Memory a copy may use.', true),
  family('workload_processor_request', 'gauge', '', 'Cores set aside for a copy.', true),
  family('workload_processor_limit', 'gauge', '', 'Cores a copy may use.', true),
  family('workload_restarts', 'counter', '', 'Times a copy was started again.', true),
  family('workload_requests', 'counter', '', 'Requests a copy has answered since it started.', true),
  family('gateway', 'info', '', 'What is known of a vessel’s gateway, also while it is not heard of.'),
  family('gateway_heartbeats', 'counter', '', 'Heartbeats a vessel’s gateway has sent.'),
  family('gateway_position_age_seconds', 'gauge', 'seconds', 'Age of the vessel’s newest position.'),
  family('gateway_link_bytes', 'counter', 'bytes', 'Bytes over the vessel’s link.')
];

/** One line of a page. */
export interface Line {
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** The id of a request behind the newest increase, for some counters. */
  readonly exemplar?: { readonly id: string; readonly value: number };
}

const day = 86_400_000;
/** Values change every so often; a page read in between has the same. */
export const stepMs = 15_000;

/**
 * The lines of a family on a cluster's page at a moment: a pure function of seed, cluster and time, which counts in steps of 15 s.
 *
 * @example linesOf(world, clusters[0], families[1], 1777881600000)[0].labels // { node: 'harbour-n1' }
 */
export function linesOf(world: MaestroWorld, cluster: Cluster, { name }: Family, moment: number): Line[] {
  const at = Math.floor(moment / stepMs) * stepMs;
  switch (name) {
    case 'cluster_copies_ready':
      return [
        line(world, cluster, name, {}, at, () =>
          cluster.workloads.reduce((sum, workload) => sum + copiesAt(world, workload, at), 0)
        )
      ];
    case 'host_processor_ratio':
    case 'host_memory_ratio':
      return cluster.nodes.map((node) =>
        line(world, cluster, name, { node }, at, (key, noise) =>
          rounded(
            (name === 'host_memory_ratio' ? 0.42 : 0.1) +
              0.3 * loadOf('web', at) +
              0.04 * noise +
              0.05 * unitNoise(key, -2),
            4
          )
        )
      );
    case 'host_processor_capacity':
      return cluster.nodes.map((node) => ({ labels: { node }, value: nodeCores }));
    case 'host_memory_capacity_bytes':
      return cluster.nodes.map((node) => ({ labels: { node }, value: nodeMemory }));
    case 'host_network_bytes':
      return cluster.nodes.flatMap((node) =>
        ['in', 'out'].map((direction) =>
          line(world, cluster, name, { node, direction }, at, (key, noise) =>
            totalSince(key, noise, Math.floor(at / (20 * day)) * 20 * day, at, 240_000)
          )
        )
      );
    case 'gateway':
      return cluster.gateways.map((gateway) => ({
        labels: { gateway, vessel: gateway.replace('gateway-', '') },
        value: 1
      }));
    case 'gateway_heartbeats':
    case 'gateway_position_age_seconds':
    case 'gateway_link_bytes':
      return cluster.gateways
        .filter((gateway) => !isSilent(world, gateway, at))
        .flatMap((gateway) => gatewayLines(world, cluster, name, gateway, at));
    default:
      return cluster.workloads.flatMap((workload) => workloadLines(world, cluster, name, workload, at));
  }
}

function gatewayLines(world: MaestroWorld, cluster: Cluster, name: string, gateway: string, at: number): Line[] {
  if (name === 'gateway_heartbeats')
    return [
      line(world, cluster, name, { gateway }, at, () =>
        Math.floor((at - Math.floor(at / (30 * day)) * 30 * day) / 30_000)
      )
    ];
  if (name === 'gateway_position_age_seconds')
    return [
      line(world, cluster, name, { gateway }, at, (key, noise) =>
        rounded(4 + 20 * noise + 30 * wander(key, at) ** 4, 1)
      )
    ];
  return ['in', 'out'].map((direction) =>
    line(world, cluster, name, { gateway, direction }, at, (key, noise) =>
      totalSince(key, noise, Math.floor(at / (30 * day)) * 30 * day, at, 3000)
    )
  );
}

function workloadLines(
  world: MaestroWorld,
  cluster: Cluster,
  name: string,
  workload: Cluster['workloads'][number],
  at: number
): Line[] {
  const { namespace, role } = workload;
  const base = { namespace, workload: workload.name };
  if (name === 'workload') return [{ labels: { ...base, team: workload.team }, value: 1 }];
  return Array.from({ length: copiesAt(world, workload, at) }, (_, i) => `${workload.name}-${i + 1}`).flatMap(
    (copy, i) => onNode(cluster.nodes[(i + workload.name.length) % cluster.nodes.length] ?? '', copyLines(copy))
  );

  /** Each copy runs on a node. */
  function onNode(node: string, lines: readonly Line[]): Line[] {
    return lines.map((one) => ({ ...one, labels: { ...one.labels, node } }));
  }

  function copyLines(copy: string): Line[] {
    const labels = { ...base, copy };
    const copyKey = seriesKey(world.seed, `${cluster.id}/${copy}`);
    const started = workload.name === 'seatmap' ? lastRestart(copyKey, at) : Math.floor(at / (12 * day)) * 12 * day;
    const age = (at - started) / 3_600_000;
    switch (name) {
      case 'workload_processor_seconds':
        return [
          line(world, cluster, name, labels, at, (key, noise) => rounded(totalSince(key, noise, started, at, 0.012), 2))
        ];
      case 'workload_memory_bytes':
        return [
          line(world, cluster, name, labels, at, (key, noise) =>
            Math.round(
              (150 +
                30 * loadOf(role, at) +
                8 * noise +
                10 * unitNoise(key, -2) +
                (workload.name === 'seatmap' ? 36 * age : 0)) *
                1_048_576
            )
          )
        ];
      case 'workload_memory_request_bytes':
        return [{ labels, value: workload.memoryRequest }];
      case 'workload_processor_request':
        return [{ labels, value: workload.coreRequest }];
      case 'workload_memory_limit_bytes':
        return [{ labels, value: workload.memoryLimit }];
      case 'workload_processor_limit':
        return [{ labels, value: workload.coreLimit }];
      case 'workload_restarts':
        return [
          {
            labels,
            value:
              workload.name === 'seatmap' ? Math.max(0, Math.floor((started - world.start) / (9 * 3_600_000)) + 40) : 0
          }
        ];
      case 'workload_requests':
        return ['ok', 'failed'].map((outcome) =>
          line(world, cluster, name, { ...labels, outcome }, at, (key, noise) =>
            Math.floor(totalSince(key, noise, started, at, outcome === 'ok' ? 9 : 0.01))
          )
        );
      default:
        throw new RangeError(`linesOf: no family "${name}"`);
    }
  }
}

function line(
  world: MaestroWorld,
  cluster: Cluster,
  name: string,
  labels: Record<string, string>,
  at: number,
  value: (key: number, noise: number) => number
): Line {
  const series = `${cluster.id}/${name}/${Object.values(labels).join('/')}`;
  const key = seriesKey(world.seed, series);
  const noise = unitNoise(key, at / stepMs);
  const stress = stressAt(
    world.stresses,
    labels['gateway'] ?? labels['node'] ?? labels['workload'] ?? cluster.id,
    name,
    at
  );
  const found = stress?.value ?? value(key, noise);
  return name === 'workload_requests' && labels['outcome'] === 'ok'
    ? {
        labels,
        value: found,
        exemplar: { id: (key >>> 0).toString(16).padStart(8, '0') + (at / stepMs).toString(16), value: 1 }
      }
    : { labels, value: found };
}

/** How many copies of a workload there are: as many as it was set to have. */
const copiesAt = ({ stresses }: MaestroWorld, { name, copies }: Workload, at: number): number =>
  stressAt(stresses, name, countMetric, at)?.value ?? copies;

/** Whether a gateway sends nothing: planted, or stressed to silence. */
function isSilent({ start, stresses }: MaestroWorld, gateway: string, at: number): boolean {
  const silent = silentGateway(start);
  return (gateway === silent.name && at >= silent.from) || stressAt(stresses, gateway, 'all', at)?.value === null;
}

/** A running total: the integral of a daily wave since it began, with a jitter too small to fall. */
function totalSince(key: number, noise: number, since: number, at: number, rate: number): number {
  const own = rate * (0.6 + 0.8 * unitNoise(key, -3));
  const total = own * (dailyWaveUntil(at / 1000) - dailyWaveUntil(since / 1000)) + 0.3 * own * (stepMs / 1000) * noise;
  return own > 100 ? Math.floor(total) : total;
}
