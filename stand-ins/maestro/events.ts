import { seriesKey } from '../world/noise';
import { lastRestart, silentGateway } from '../world/troubles';
import type { MaestroWorld } from './numbers';
import type { Cluster } from './world';

export interface ClusterEvent {
  readonly id: string;
  readonly at: number;
  readonly subject: Readonly<Record<string, string>>;
  readonly kind: string;
  readonly text: string;
}

const day = 86_400_000;

/** What happened on a cluster in the fourteen days up to a moment, oldest first. */
export function eventsOf({ seed, start }: MaestroWorld, cluster: Cluster, now: number): ClusterEvent[] {
  const found: Omit<ClusterEvent, 'id'>[] = [];
  for (const { name, namespace, copies } of cluster.workloads)
    if (name === 'seatmap')
      for (let copy = 1; copy <= copies; copy++) {
        const key = seriesKey(seed, `${cluster.id}/${name}-${copy}`);
        for (let at = lastRestart(key, now); at > now - 14 * day; at = lastRestart(key, at - 1))
          found.push({
            at,
            subject: { namespace, workload: name, copy: `${name}-${copy}` },
            kind: 'restarted',
            text: `${name}-${copy} was restarted: it had used up its memory.`
          });
      }
  const silent = silentGateway(start);
  if (cluster.gateways.includes(silent.name) && silent.from <= now)
    found.push({
      at: silent.from + 60_000,
      subject: { gateway: silent.name },
      kind: 'lost',
      text: `${silent.name} has not been heard of for a minute.`
    });
  return found
    .sort((a, b) => a.at - b.at)
    .map((event) => ({ id: `${event.at}-${Object.values(event.subject).at(-1)}`, ...event }));
}
