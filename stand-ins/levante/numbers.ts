import type { Machine } from './world';

/** One minute of one series: twelve readings, five seconds apart, summed up. */
export interface SummaryPoint {
  /** Start of the minute, milliseconds since the epoch. */
  readonly at: number;
  readonly sum: number;
  readonly count: number;
  readonly min: number;
  readonly max: number;
}

/** A trouble made on purpose: the metric holds a value, or the resource is silent, from one moment to another. */
export interface Stress {
  readonly resource: string;
  /** A metric's name, or `all`. */
  readonly metric: string;
  /** The value every reading is drawn to; null is silence. */
  readonly value: number | null;
  readonly from: number;
  readonly until: number;
}

const minute = 60_000;
const readings = 12;

/**
 * The point of one minute: a pure function of seed, series, time and the stresses given. Null while the machine is silent.
 *
 * @param at start of a minute, milliseconds since the epoch
 * @example pointOf(1, machine, 'machine.processor.use', 1777881600000, [])
 */
export function pointOf(
  seed: number,
  machine: Machine,
  metric: string,
  at: number,
  stresses: readonly Stress[]
): SummaryPoint | null {
  const key = Math.imul(seed, 0x9e3779b1) ^ textHash(`${machine.id}/${metric}`);
  const slot = at / minute;
  let sum = 0;
  let min = Infinity;
  let max = -Infinity;
  let count = 0;
  for (let i = 0; i < readings; i++) {
    const moment = at + i * 5_000;
    const stress = stresses.findLast(
      (s) =>
        s.resource === machine.id && (s.metric === 'all' || s.metric === metric) && moment >= s.from && moment < s.until
    );
    if (stress?.value === null) continue;
    const noise = unitNoise(key, slot * readings + i);
    const value = shaped(
      metric,
      stress ? stress.value * (1 + (noise - 0.5) * 0.02) : level(machine, metric, moment, key),
      stress ? 0.5 : noise
    );
    sum += value;
    count++;
    if (value < min) min = value;
    if (value > max) max = value;
  }
  return count === 0 ? null : { at, sum: Math.round(sum * 100) / 100, count, min, max };
}

/**
 * How long after its minute a series' point can be fetched, in milliseconds: 15 to 50 s, fixed for each series.
 *
 * @example delayOf(1, machine, 'machine.processor.use') // 27000
 */
export const delayOf = (seed: number, machine: Machine, metric: string): number =>
  15_000 + Math.floor(unitNoise(textHash(`${machine.id}/${metric}/delay`), seed) * 36) * 1_000;

/** A reading as an agent reports it: noise added, two decimals for shares and whole bytes for rates, never below zero or above 100 %. */
function shaped(metric: string, value: number, noise: number): number {
  if (metric.endsWith('.use')) return Math.round(Math.min(100, Math.max(0, value + (noise - 0.5) * 6)) * 100) / 100;
  return Math.max(0, Math.round(value * (0.85 + 0.3 * noise)));
}

/** The undisturbed level of a series at a moment. */
function level(machine: Machine, metric: string, moment: number, key: number): number {
  const load = loadOf(machine, moment) * (0.9 + 0.2 * unitNoise(key, -1)) * (0.96 + 0.08 * wander(key, moment));
  switch (metric) {
    case 'machine.processor.use':
      return 9 + 52 * load;
    case 'machine.memory.use':
      return 38 + 14 * unitNoise(key, -2) + 12 * load + 6 * wander(key ^ 77, moment);
    case 'machine.network.in':
      return 60_000 + 2_400_000 * load;
    case 'machine.network.out':
      return 90_000 + 7_800_000 * load;
    case 'machine.disk.write':
      return 25_000 + 900_000 * load * (machine.role === 'tariff' ? 3 : 1);
    default:
      throw new RangeError(`pointOf: no metric "${metric}"`);
  }
}

/**
 * The load of a machine, 0 to about 1.3: mornings and early evenings peak, nights are quiet, weekends and the first day of a month differ,
 * a departure every 40 minutes brings ticket checks, and fares are recomputed at 02:00 UTC.
 */
function loadOf({ role, account }: Machine, moment: number): number {
  const date = new Date(moment);
  const hours = date.getUTCHours() + date.getUTCMinutes() / 60 + date.getUTCSeconds() / 3600;
  const peak = (centre: number, width: number) => Math.exp(-(((hours - centre) / width) ** 2));
  const weekend = date.getUTCDay() === 0 || date.getUTCDay() === 6;
  const people = (0.12 + 0.62 * peak(7, 1.9) + 0.7 * peak(17.5, 2.3) + 0.3 * peak(12.5, 2.6)) * (weekend ? 1.15 : 1);
  const firstOfMonth = date.getUTCDate() === 1 ? 1.2 : 1;
  const sinceDeparture = Math.floor(moment / 1000) % 2400;
  const departure = hours > 5 && hours < 22.5 && sinceDeparture < 480 ? Math.sin((Math.PI * sinceDeparture) / 480) : 0;
  const fares = hours >= 2 && hours < 2.7 ? 1.05 : 0;
  const stage = account === 'corallo-staging' ? 0.25 : 1;
  switch (role) {
    case 'web':
      return stage * people * firstOfMonth;
    case 'gate':
      return stage * (0.35 * people + 0.55 * departure);
    case 'desk':
      return stage * (weekend ? 0.15 : 0.1 + 0.5 * peak(10, 3.2));
    case 'display':
      return stage * (0.25 + 0.12 * departure);
    case 'tariff':
      return stage * (0.08 + fares);
    default:
      throw new RangeError(`loadOf: no role "${String(role satisfies never)}"`);
  }
}

/** A slow wander between 0 and 1: noise at every twenty minutes, joined smoothly. */
function wander(key: number, moment: number): number {
  const place = moment / (20 * minute);
  const whole = Math.floor(place);
  const part = place - whole;
  const ease = part * part * (3 - 2 * part);
  return unitNoise(key ^ 0x5bd1, whole) * (1 - ease) + unitNoise(key ^ 0x5bd1, whole + 1) * ease;
}

/** A number in [0, 1) that depends on nothing but its arguments (the finaliser of MurmurHash3). */
function unitNoise(key: number, index: number): number {
  let h = Math.imul(key ^ (index | 0), 0x85ebca6b) ^ Math.imul(Math.floor(index / 4294967296) | 0, 0x27d4eb2f);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967296;
}

/** FNV-1a, 32 bits. */
function textHash(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h;
}
