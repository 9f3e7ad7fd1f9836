import { families, linesOf, stepMs, type MaestroWorld } from './numbers';
import type { Cluster } from './world';

/**
 * A cluster's page in OpenMetrics text 1.0: what is true at a moment, without timestamps.
 *
 * @param workloadLevel whether workload-level families are on
 */
export function pageAt(world: MaestroWorld, cluster: Cluster, workloadLevel: boolean, moment: number): string {
  return pageOf(world, cluster, workloadLevel, [moment], false);
}

/** What the cluster kept of a half-open span, a value each minute, with timestamps. */
export function storedPage(
  world: MaestroWorld,
  cluster: Cluster,
  workloadLevel: boolean,
  from: number,
  to: number
): string {
  const moments: number[] = [];
  for (let at = Math.ceil(from / 60_000) * 60_000; at < to; at += 60_000) moments.push(at);
  return pageOf(world, cluster, workloadLevel, moments, true);
}

function pageOf(
  world: MaestroWorld,
  cluster: Cluster,
  workloadLevel: boolean,
  moments: readonly number[],
  stamped: boolean
): string {
  const text: string[] = [];
  for (const family of families) {
    if (family.workloadLevel && !workloadLevel) continue;
    const suffix = family.type === 'counter' ? '_total' : family.type === 'info' ? '_info' : '';
    // Lines of one series stand together, their timestamps rising.
    const series = new Map<string, string[]>();
    for (const moment of moments)
      for (const { labels, value, exemplar } of linesOf(world, cluster, family, moment)) {
        const name = `${family.name}${suffix}${labelText(labels)}`;
        const stamp = stamped ? ` ${moment / 1000}` : '';
        const tail =
          exemplar && !stamped
            ? ` # {trace_id="${exemplar.id}"} ${exemplar.value} ${(Math.floor(moment / stepMs) * stepMs) / 1000}`
            : '';
        const lines = series.get(name) ?? [];
        lines.push(`${name} ${value}${stamp}${tail}`);
        series.set(name, lines);
      }
    if (series.size === 0) continue;
    text.push(`# TYPE ${family.name} ${family.type}`);
    if (family.unit !== '') text.push(`# UNIT ${family.name} ${family.unit}`);
    text.push(`# HELP ${family.name} ${family.help}`);
    for (const lines of series.values()) for (const one of lines) text.push(one);
  }
  text.push('# EOF', '');
  return text.join('\n');
}

function labelText(labels: Readonly<Record<string, string>>): string {
  const pairs = Object.entries(labels).map(
    ([key, value]) => `${key}="${value.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`
  );
  return pairs.length === 0 ? '' : `{${pairs.join(',')}}`;
}
