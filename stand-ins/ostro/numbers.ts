import { dailyWaveUntil, loadOf } from '../world/load';
import { rounded, seriesKey, unitNoise, wander } from '../world/noise';
import { stressAt, type Stress } from '../world/stress';
import { doublingStore, failedNights, idleMachine, replicationStall, unusualLatency } from '../world/troubles';
import { euroOfFranc, storedGigabytes, storedPrice } from './stored';
import type { OstroMeasure, OstroThing } from './world';

/** What the numbers of a whole Ostro depend on. */
export interface OstroWorld {
  readonly seed: number;
  /** The moment the planted troubles count from. */
  readonly start: number;
  readonly stresses: readonly Stress[];
}

const minute = 60_000;
const day = 86_400_000;

/**
 * The value of a measure at a moment: a pure function of seed, series, time and the stresses given. Null while the thing is silent.
 *
 * @param dimension the series' value of the measure's dimension; empty without one
 * @param at a multiple of the measure's interval, milliseconds since the epoch
 */
export function valueOf(
  { seed, start, stresses }: OstroWorld,
  thing: OstroThing,
  measure: OstroMeasure,
  dimension: string,
  at: number
): number | null {
  const stress = stressAt(stresses, thing.uri, measure.measure, at);
  if (stress?.value === null) return null;
  const key = seriesKey(seed, `${thing.uri}/${measure.measure}/${dimension}`);
  const noise = unitNoise(key, Math.floor(at / (measure.everySeconds * 1000)));
  if (measure.behaviour === 'cumulative') return totalOf(thing, measure, key, noise, at);
  const value = stress ? stress.value : levelOf(thing, measure, dimension, at, key, start) * (0.92 + 0.16 * noise);
  const bounded = measure.unit === '%' ? Math.min(100, value) : value;
  return Math.max(0, rounded(bounded, measure.decimals));
}

/** How long after its moment a value can be read, in milliseconds, fixed for each series. */
export const latenessOf = (seed: number, { uri }: OstroThing, { measure, lateSeconds }: OstroMeasure): number =>
  Math.round(lateSeconds * 1000 * (0.7 + 0.25 * unitNoise(seriesKey(seed, `${uri}/${measure}/late`), 1)));

/** A running total that begins again each tenth day: the integral of a daily wave, with a jitter too small to fall. */
function totalOf(thing: OstroThing, { everySeconds }: OstroMeasure, key: number, noise: number, at: number): number {
  const every = 10 * day;
  const since = Math.floor((at + (Math.abs(key) % every)) / every) * every - (Math.abs(key) % every);
  const seconds = (at - since) / 1000;
  const rate = 2 + 60 * unitNoise(key, -3);
  return Math.floor(
    rate * (dailyWaveUntil(at / 1000) - dailyWaveUntil(at / 1000 - seconds)) + 0.3 * rate * everySeconds * noise
  );
}

function levelOf(
  thing: OstroThing,
  { measure, everySeconds }: OstroMeasure,
  dimension: string,
  at: number,
  key: number,
  start: number
): number {
  const load = loadOf(thing.role, at) * (0.94 + 0.12 * wander(key, at));
  const fixed = unitNoise(key, -2);
  const stall = replicationStall(start);
  const stalled = thing.title === 'dorsale-standby' && at >= stall.from && at < stall.until ? at - stall.from : 0;
  const slow = unusualLatency(start);
  const isSlow = thing.title === slow.name && at >= slow.from && at < slow.until;
  const growing = doublingStore(start);
  const doubled = thing.title === growing.name && at >= growing.from ? 2 : 1;
  const idle = idleMachine(start);
  const isIdle = thing.title === idle.name && at >= idle.from;
  switch (`${thing.kind}/${measure}`) {
    case 'database/connections':
      return 14 + 90 * load;
    case 'database/statements':
      return 12 + 340 * load;
    case 'database/read-latency':
      return 2.8 + 3 * load;
    case 'database/processor':
      return 7 + 44 * load;
    case 'machine/processor':
      return isIdle ? 1.2 : 7 + 44 * load;
    case 'database/storage':
      return 44 + 22 * fixed + (at % (30 * day)) / day / 5;
    case 'object-store/size':
      return storedGigabytes(thing) * 1e9 * doubled * (1 + (at / day - 20_000) * 0.0004);
    case 'object-store/objects':
      return (40_000 + 900_000 * fixed) * doubled;
    case 'object-store/cost':
      return storedGigabytes(thing) * storedPrice * euroOfFranc * doubled;
    case 'function/calls':
      return 20 + 1400 * load * (0.3 + fixed);
    case 'function/failures':
      return 6 * load * load * fixed;
    case 'function/duration':
      return 90 + 160 * load + 60 * fixed + (isSlow ? 85 : 0);
    case 'function/at-once':
      return 2 + 40 * load;
    case 'machine/network-in':
      return isIdle ? 900 : 40_000 + 1_100_000 * load;
    case 'machine/network-out':
      return isIdle ? 700 : 60_000 + 2_600_000 * load;
    case 'machine/memory':
      return 34 + 18 * fixed + 14 * load;
    case 'machine/filesystem':
      return 30 + 40 * fixed;
    case 'pipeline/runs':
      return (
        runsAt(thing, dimension, at, everySeconds, start) /
        (0.92 + 0.16 * unitNoise(key, Math.floor(at / (everySeconds * 1000))))
      );
    case 'pipeline/errors':
      return errorsAt(thing, dimension, at, everySeconds, start);
    case 'pipeline/rows':
      return 400 + 90_000 * load;
    case 'pipeline/run-time':
      return 60 + 1500 * load;
    case 'replication/lag':
      return 1.4 + 3 * load + (stalled / 1000) * 1.0;
    case 'replication/backlog':
      return 4e6 + 3e7 * load + (stalled / minute) * 9e6;
    case 'replication/network-in':
      return stalled > 0 ? 1200 : 900_000 + 3_000_000 * load;
    case 'replication/processor':
      return stalled > 0 ? 2 : 8 + 20 * load;
    case 'replication/disk-free':
      return 46 - 10 * fixed - (stalled / day) * 4;
    case 'gateway/bytes-out':
      return 2e6 + 9e6 * load;
    case 'gateway/tunnels':
      return 4;
    case 'gateway/dropped':
      return 3 * load;
    default:
      throw new RangeError(`valueOf: no measure "${thing.kind}/${measure}"`);
  }
}

/** The nightly pipeline runs once a night at 02:10, the others every hour; in the planted nights it fails. */
function runsAt(thing: OstroThing, outcome: string, at: number, everySeconds: number, start: number): number {
  const within = (moment: number) => moment >= at && moment < at + everySeconds * 1000;
  if (thing.title === 'nightly-tariff-load') {
    const tonight = Math.floor(at / day) * day + 130 * minute;
    if (!within(tonight)) return 0;
    return failedNights(start).includes(tonight) === (outcome === 'failed') ? 1 : 0;
  }
  return outcome === 'succeeded' && within(Math.ceil(at / 3_600_000) * 3_600_000) ? 1 : 0;
}

/** One error dominates the failed nights; a few bad records are usual. */
function errorsAt(thing: OstroThing, error: string, at: number, everySeconds: number, start: number): number {
  if (thing.title !== 'nightly-tariff-load') return error === 'bad record' ? 0.4 * loadOf(thing.role, at) : 0;
  const failing = failedNights(start).some((night) => at <= night && night < at + everySeconds * 1000);
  if (!failing) return 0;
  return { 'source timed out': 212, 'bad record': 9, 'no room': 2 }[error] ?? 0;
}
