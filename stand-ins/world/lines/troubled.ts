import { seriesKey, unitNoise } from '../noise';
import { doublingStore, failedNights, lastRestart, poolFilling, replicationStall } from '../troubles';
import { error, fatal, info, pickOf, warn, type LineWorld, type WorldLine } from './line';

const second = 1000;
const minute = 60 * second;
const hour = 60 * minute;

/** How far the full connection pool of `ticket-orders` is felt elsewhere, 0 to 1. */
export const failing = ({ start }: LineWorld, at: number): number => Math.max(0, 2 * poolFilling(start, at) - 1);

/** Moments within a span at which a copy of `seatmap` is restarted for want of memory. */
function restartsOf({ seed }: LineWorld, cluster: string, copy: string, from: number, to: number): number[] {
  const key = seriesKey(seed, `${cluster}/${copy}`);
  const found: number[] = [];
  for (let at = lastRestart(key, to); at >= from; at = lastRestart(key, at - 1)) found.push(at);
  return found;
}

/** What a copy of `seatmap` says before its memory is used up, and once it begins anew. */
export const memoryOfCopy =
  (cluster: string, copy: string) =>
  (world: LineWorld, from: number, to: number): WorldLine[] =>
    restartsOf(world, cluster, copy, from, to + hour).flatMap((at) => {
      const key = seriesKey(world.seed, `${copy} runs out`);
      const warnings = Array.from({ length: 24 }, (_, index): WorldLine => {
        const moment = at - Math.round(45 * minute * (1 - index / 24) ** 1.6) - 20 * second;
        return {
          at: moment,
          severity: warn,
          text: `cache above its limit: ${480 + index + Math.floor(unitNoise(key, moment) * 8)} of 512 MiB`,
          fields: {}
        };
      });
      const failures = Array.from({ length: 6 }, (_, index): WorldLine => {
        const moment = at - (6 - index) * 1700 - 321;
        return {
          at: moment,
          severity: error,
          text: `cannot allocate 64 MiB for the deck plan of vessel ${1 + Math.floor(unitNoise(key, moment) * 14)}`,
          fields: {}
        };
      });
      const begins: WorldLine = { at: at + 1518, severity: info, text: 'starting, 512 MiB', fields: {} };
      return [...warnings, ...failures, begins];
    });

/** What a node says of the copies of `seatmap` that run on it when they are killed. */
export const killsOnNode =
  (cluster: string, copies: readonly string[]) =>
  (world: LineWorld, from: number, to: number): WorldLine[] =>
    copies.flatMap((copy) =>
      restartsOf(world, cluster, copy, from - minute, to).flatMap((at): WorldLine[] => {
        const pid = 4000 + Math.floor(unitNoise(seriesKey(world.seed, `process of ${copy}`), at) * 900);
        return [
          {
            at,
            severity: fatal,
            text: `kernel: memory cgroup out of memory: killed process ${pid} (seatmap)`,
            fields: { 'process.pid': pid, container: copy }
          },
          {
            at: at + 29,
            severity: info,
            text: `warden[704]: container ${copy} ended with 137`,
            fields: { container: copy }
          }
        ];
      })
    );

/** What the full pool makes `ticket-orders` say. */
export function noConnections(world: LineWorld, from: number, to: number): WorldLine[] {
  const lines: WorldLine[] = [];
  for (let begin = Math.floor(from / minute) * minute; begin < to; begin += minute) {
    const felt = failing(world, begin);
    for (let index = 0; index < Math.floor(felt * 40); index++)
      lines.push({
        at: begin + Math.floor((index / (felt * 40)) * minute),
        severity: error,
        text: 'no connection is free: 200 of 200 are in use',
        fields: { allowed: 200 }
      });
  }
  return lines;
}

/** The replication stalls: it says that it waits, every minute. */
export function stalled({ start }: LineWorld, from: number, to: number): WorldLine[] {
  const stall = replicationStall(start);
  const lines: WorldLine[] = [
    {
      at: stall.from,
      severity: error,
      text: 'connection to the source was lost: no answer within 60 s',
      fields: {}
    },
    { at: stall.until, severity: info, text: 'connection to the source is there again', fields: {} }
  ];
  for (let at = stall.from + minute; at < stall.until && at < to; at += minute)
    if (at >= from)
      lines.push({
        at,
        severity: warn,
        text: `waits for piece ${Math.floor(stall.from / 20_000).toString(16)} since ${Math.round((at - stall.from) / minute)} min`,
        fields: {}
      });
  return lines;
}

/** Runs of `nightly-tariff-load`: three of them fail, nearly all by one error, each with its trace over several lines. */
export function nightlyRuns({ seed, start }: LineWorld, from: number, to: number): WorldLine[] {
  const failed = failedNights(start);
  const first = (failed[0] ?? start) - 14 * 24 * hour;
  const lines: WorldLine[] = [];
  for (let night = first; night < to; night += 24 * hour) {
    if (night + hour < from) continue;
    const isFailed = failed.includes(night);
    const run = 300 + Math.round((night - first) / (24 * hour));
    const say = (at: number, severity: number, text: string) => lines.push({ at, severity, text, fields: { run } });
    say(night, info, `run ${run} begins: 214 tables`);
    for (let index = 0; index < 214; index++) {
      const at = night + 2 * second + index * 1300;
      const pick = pickOf(seriesKey(seed, 'nightly-tariff-load'), at, index);
      const table = `fares_${pick.whole(1, 100, 399)}`;
      if (!isFailed) say(at, info, `table ${table}: ${pick.whole(2, 800, 90_000)} rows`);
      else if (index % 60 === 17)
        say(at, error, `bad record in ${table}, row ${pick.whole(3, 1, 9000)}: no fare class`);
      else
        say(
          at,
          error,
          `source timed out after 30 s\n  at read (tariff/source.lod:118)\n  at table ${table} (tariff/load.lod:${pick.whole(4, 40, 44)})\n  at main (tariff/run.lod:9)`
        );
    }
    say(night + 5 * minute, isFailed ? error : info, isFailed ? `run ${run} failed` : `run ${run} ended`);
  }
  return lines;
}

/** The store that doubles: since then each thing is stored once more, as an older version. */
export function olderVersions(world: LineWorld, from: number, to: number): WorldLine[] {
  const { from: since } = doublingStore(world.start);
  const lines: WorldLine[] = [];
  for (let at = Math.ceil(Math.max(from, since) / minute) * minute; at < to; at += minute)
    lines.push({
      at: at + 400,
      severity: info,
      text: `version ${1 + Math.floor(unitNoise(seriesKey(world.seed, 'versions'), at) * 5)} of an object stays beside its newest`,
      fields: { bucket: 'manifests' }
    });
  return lines;
}
