import { spawnSync } from 'node:child_process';
import { decodeChunk, encodeChunk } from '../src/lib/core/codec';
import { pointsOfLength, type SummaryPoints } from '../src/lib/core/series';
import { pointOf } from '../stand-ins/levante/numbers';
import { metricsOfType, resources } from '../stand-ins/levante/world';
import { valueOf } from '../stand-ins/ostro/numbers';
import { measuresOfKind, things } from '../stand-ins/ostro/world';
import { inTurn, type Measurement } from './measurement';

const minute = 60_000;
const dayMs = 1440 * minute;
const days = 14;
const start = Date.parse('2026-05-04T00:00:00Z');
/** One of so many series, so that the slow alternative ends in reasonable time. */
const oneOf = 6;

/** Days of series as the demo has them: machines and services of Levante, things of Ostro. */
function demoDays(): SummaryPoints[] {
  const world = { seed: 1, start, stresses: [] };
  const levante = resources.flatMap((resource) =>
    metricsOfType(resource.type).flatMap((metric) =>
      (metric.classes.length > 0 ? metric.classes : ['']).map((className) => ({
        every: minute,
        at: (moment: number) => pointOf(world, resource, metric, className, moment)
      }))
    )
  );
  const ostro = things.flatMap((thing) =>
    measuresOfKind(thing.kind).map((measure) => ({
      every: measure.everySeconds * 1000,
      at: (moment: number) => {
        const value = valueOf(world, thing, measure, measure.dimension?.values[0] ?? '', moment) ?? 0;
        return { sum: value, count: 1, min: value, max: value };
      }
    }))
  );
  return [...levante, ...ostro]
    .filter((_, i) => i % oneOf === 0)
    .flatMap(({ every, at }) =>
      Array.from({ length: days }, (_, day) => {
        const points = pointsOfLength(dayMs / every);
        for (let i = 0; i < points.at.length; i++) {
          const moment = start - (days - day) * dayMs + i * every;
          const point = at(moment);
          points.at[i] = moment;
          points.sum[i] = point?.sum ?? 0;
          points.count[i] = point?.count ?? 1;
          points.min[i] = point?.min ?? 0;
          points.max[i] = point?.max ?? 0;
        }
        return points;
      })
    );
}

const columns = ['at', 'sum', 'count', 'min', 'max'] as const;
const pointsIn = (all: readonly SummaryPoints[]) => all.reduce((sum, { at }) => sum + at.length, 0);

/** Bytes a point in chunks, against what `xz -9` makes of the same columns. */
export function storeBytes(): Measurement[] {
  const all = demoDays();
  const ours = all.reduce((sum, points) => sum + encodeChunk(points).byteLength, 0);
  const raw = Buffer.concat(columns.flatMap((name) => all.map((points) => Buffer.from(points[name].buffer))));
  const { stdout, status } = spawnSync('xz', ['-9', '-c', '-T1'], { input: raw, maxBuffer: 1e9 });
  if (status !== 0) throw new Error('store.bytes: xz did not run; install the package xz-utils');
  const points = pointsIn(all);
  return [
    {
      name: 'store.bytes',
      unit: 'bytes/point',
      better: 'lower',
      ours: ours / points,
      theirs: stdout.length / points,
      alternative:
        'xz -9 of the same columns (instant, sum, count, min, max) as float64, column by column over all of them',
      note: `${points.toLocaleString('en')} points, ${all.length / days} series of the demo over ${days} days in daily chunks; a summary point holds four samples, a reading one`
    }
  ];
}

/** Points decoded a second, against JSON.parse of the same. */
export async function storeDecode(): Promise<Measurement[]> {
  const all = demoDays().filter((_, i) => i % 7 === 0);
  const chunks = all.map((points) => encodeChunk(points));
  const texts = all.map((points) => JSON.stringify(columns.map((name) => [...points[name]])));
  const samples = all.reduce(
    (sum, { at, sum: a, min }) => sum + at.length * (a.every((value, i) => value === min[i]) ? 1 : 4),
    0
  );
  const rounds = 10;
  const seconds = await inTurn(
    7,
    () => {
      for (let round = 0; round < rounds; round++) for (const chunk of chunks) decodeChunk(chunk);
    },
    () => {
      for (const text of texts) JSON.parse(text);
    }
  );
  return [
    {
      name: 'store.decode',
      unit: 'samples/s',
      better: 'higher',
      ours: (samples * rounds) / seconds.ours,
      theirs: samples / seconds.theirs,
      alternative: 'JSON.parse of the same columns',
      note: `${chunks.length} daily chunks, one core; instants are decoded too, and not counted`
    }
  ];
}
