import { loadOf } from '../world/load';
import { rounded, seriesKey, textHash, unitNoise, wander } from '../world/noise';
import { stressAt, type Stress } from '../world/stress';
import { poolFilling, renamedMachine } from '../world/troubles';
import { wantedAt, type LevanteMetric, type LevanteResource } from './world';

/** One minute of one series. A summary point stands for twelve readings, five seconds apart; a single one has count 1. */
export interface SummaryPoint {
  /** Start of the minute, milliseconds since the epoch. */
  readonly at: number;
  readonly sum: number;
  readonly count: number;
  readonly min: number;
  readonly max: number;
}

/** What the numbers of a whole Levante depend on. */
export interface LevanteWorld {
  readonly seed: number;
  /** The moment the planted troubles count from. */
  readonly start: number;
  readonly stresses: readonly Stress[];
}

const minute = 60_000;
const readings = 12;

/**
 * The point of one minute: a pure function of seed, series, time and the stresses given. Null while the resource is silent.
 *
 * @param at start of a minute, milliseconds since the epoch
 * @param classes the series' class, for a metric that has several; else empty
 * @example pointOf({ seed: 1, start: 0, stresses: [] }, machine, metric, '', 1777881600000)
 */
export function pointOf(
  { seed, start, stresses }: LevanteWorld,
  resource: LevanteResource,
  metric: LevanteMetric,
  className: string,
  at: number
): SummaryPoint | null {
  const stopped = renamedMachine(start);
  if (resource.id === stopped.id && at >= stopped.stoppedAt && at < stopped.at) return null;
  const key = seriesKey(seed, `${resource.id}/${metric.name}${className === '' ? '' : `/${className}`}`);
  const slot = at / minute;
  const count = metric.shape === 'summary' ? readings : 1;
  const level = levelOf(resource, metric, className, at + minute / 2, key, start);
  let sum = 0;
  let min = Infinity;
  let max = -Infinity;
  let seen = 0;
  const stressed = stresses.length > 0;
  for (let i = 0; i < count; i++) {
    const stress = stressed ? stressAt(stresses, resource.id, metric.name, at + (i * minute) / count) : undefined;
    if (stress?.value === null) continue;
    const noise = unitNoise(key, slot * readings + i);
    const value = stress
      ? asReported(metric, stress.value * (1 + (noise - 0.5) * 0.02))
      : asReported(metric, noisy(metric, level, noise));
    sum += value;
    seen++;
    if (value < min) min = value;
    if (value > max) max = value;
  }
  return seen === 0 ? null : { at, sum: rounded(sum, 2), count: seen, min, max };
}

/**
 * How long after its minute a series' point can be fetched, in milliseconds: 15 to 50 s, fixed for each series.
 *
 * @example delayOf(1, machine, 'machine.processor.use') // 27000
 */
export const delayOf = (seed: number, { id }: LevanteResource, metric: string): number =>
  15_000 + Math.floor(unitNoise(textHash(`${id}/${metric}/delay`), seed) * 36) * 1_000;

/** Shares wobble by three points, counts and rates by a sixth. */
function noisy({ unit }: LevanteMetric, level: number, noise: number): number {
  if (unit === '%') return level + (noise - 0.5) * 6;
  if (unit === '{machine}' || unit === '{target}') return level;
  return level * (0.85 + 0.3 * noise);
}

/** As an agent reports it: two decimals for shares and times, whole bytes and counts, never below zero or above 100 %. */
function asReported({ unit }: LevanteMetric, value: number): number {
  if (unit === '%') return rounded(Math.min(100, Math.max(0, value)), 2);
  const decimals = unit === 'ms' || unit === 's' || unit === '1' ? 2 : unit.endsWith('/s') && unit !== 'By/s' ? 1 : 0;
  return Math.max(0, rounded(value, decimals));
}

/** The undisturbed level of a series at a moment, with the planted troubles. */
function levelOf(
  resource: LevanteResource,
  { name }: LevanteMetric,
  className: string,
  moment: number,
  key: number,
  start: number
): number {
  const stage = resource.account === 'corallo-staging' ? 0.25 : 1;
  const load =
    stage * loadOf(resource.role, moment) * (0.9 + 0.2 * unitNoise(key, -1)) * (0.96 + 0.08 * wander(key, moment));
  const fixed = unitNoise(key, -2);
  const pool = resource.id === 'lev-d-p-ticket-orders' ? poolFilling(start, moment) : 0;
  switch (name) {
    case 'machine.processor.use':
      return 9 + 52 * load;
    case 'machine.memory.use':
      return 38 + 14 * fixed + 12 * load + 6 * wander(key ^ 77, moment);
    case 'machine.network.in':
      return 60_000 + 2_400_000 * load;
    case 'machine.network.out':
      return 90_000 + 7_800_000 * load;
    case 'machine.disk.write':
      return 25_000 + 900_000 * load * (resource.role === 'tariff' ? 3 : 1);
    case 'machine.filesystem.use':
      return 35 + 30 * fixed + 8 * wander(key ^ 5, moment, 86_400_000);
    case 'machine.load.minute':
      return 0.2 + 3.4 * load;
    case 'machine.group.running':
    case 'machine.group.wanted':
      return wantedAt(resource.role, moment);
    case 'balancer.responses': {
      const requests = 40 + 5200 * load;
      const share = { '2xx': 0.93, '3xx': 0.05, '4xx': 0.018, '5xx': 0.002 }[className] ?? 0;
      return requests * share * (className === '5xx' ? 1 + 20 * pool : 1);
    }
    case 'balancer.response.time':
      return 28 + 40 * load + 30 * fixed;
    case 'balancer.targets.healthy':
      return 2 + Math.round(2 * fixed);
    case 'queue.depth':
      return 3 + 160 * load * wander(key ^ 9, moment, 300_000);
    case 'queue.oldest.age':
      return 0.8 + 6 * load * wander(key ^ 9, moment, 300_000);
    case 'queue.sent':
    case 'queue.taken':
      return 12 + 900 * load;
    case 'cache.hit.share':
      return 97 - 6 * load - 3 * fixed;
    case 'cache.memory.use':
      return 48 + 20 * fixed + 16 * load;
    case 'cache.evicted':
      return 240 * load * load;
    case 'cache.connections':
      return 12 + 60 * load;
    case 'database.connections.use':
      return 12 + 34 * load + 52 * pool;
    case 'database.statements':
      return 40 + 980 * load * (1 - 0.35 * pool);
    case 'database.read.latency':
      return 2.2 + 3.5 * load + 9 * pool;
    case 'database.processor.use':
      return 8 + 46 * load + 18 * pool;
    case 'database.storage.use':
      return 52 + 20 * fixed + 6 * wander(key ^ 3, moment, 10 * 86_400_000);
    case 'database.replica.lag':
      return resource.name.endsWith('r1') || resource.name.includes('replica') ? 0.3 + 2.5 * load : 0;
    default:
      throw new RangeError(`pointOf: no metric "${name}"`);
  }
}
