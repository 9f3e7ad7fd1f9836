import { setTimeout as wait } from 'node:timers/promises';
import { linesOf, type LineWorld, type WorldLine } from '../world/lines/line';
import { maestroStreams, type ClusterStream } from '../world/lines/streams';

/** Lines of one message of the stream cover so long at most, and come so long after they were written. */
const mostSpanMs = 1_800_000;
const laterMs = 1500;
/** How often the stream looks for new ones, in real time. */
const everyMs = 1000;

/** A line as the cluster writes it, with what wrote it under OpenTelemetry's names. */
function written({ cluster, node, workload, gateway }: ClusterStream, line: WorldLine): string {
  const from =
    workload === null
      ? { 'host.name': gateway ?? node }
      : { 'service.name': workload.name, 'container.name': workload.copy, 'node.name': node };
  const { at, severity, text, fields } = line;
  return JSON.stringify({ time: at, severity, body: text, 'cluster.name': cluster, ...from, ...fields });
}

/** Lines of a cluster in a span, in order. */
export function linesOfCluster(world: LineWorld, cluster: string, from: number, to: number): string[] {
  return maestroStreams
    .filter((stream) => stream.cluster === cluster)
    .flatMap((stream) => linesOf(stream, world, from, to).map((line) => ({ stream, line })))
    .sort((a, b) => a.line.at - b.line.at)
    .map(({ stream, line }) => written(stream, line));
}

/**
 * The stream of a cluster's lines (server-sent events): each message has the lines of a span and, as its id, up to when all are there. With an end it ends there; otherwise it goes on.
 *
 * @param until milliseconds since the epoch; null for ever
 */
export async function* streamOfLines(
  world: () => LineWorld,
  cluster: string,
  since: number,
  until: number | null,
  now: () => number,
  signal: AbortSignal
): AsyncGenerator<string> {
  yield ': lines follow\n\n';
  for (let from = since; !signal.aborted;) {
    const to = Math.min(now() - laterMs, from + mostSpanMs, until ?? Infinity);
    if (to > from) {
      const lines = linesOfCluster(world(), cluster, from, to);
      yield `id: ${new Date(to).toISOString()}\n${lines.map((line) => `data: ${line}\n`).join('') || 'data: \n'}\n`;
      from = to;
    }
    if (until !== null && (from >= until || now() - laterMs <= from)) return;
    if (now() - laterMs - from < everyMs) await wait(everyMs, undefined, { signal }).catch(() => undefined);
  }
}
