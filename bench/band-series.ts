// Labelled series for measuring anomaly bands: made up from a seed, of every shape that the bands are meant for.
import { duration, instant, type Grid } from '../src/lib/core/time';

/** What happened to a series, and when, as indices of cells [from, to). */
export interface Label {
  readonly kind: 'spike' | 'drop' | 'shift' | 'drift' | 'missing season' | 'changed variance';
  readonly from: number;
  readonly to: number;
}

/** A series of cells with what is wrong with it; the cells before `testFrom` are its history. */
export interface LabelledSeries {
  readonly name: string;
  readonly grid: Grid;
  readonly values: Float64Array;
  readonly testFrom: number;
  readonly labels: readonly Label[];
  readonly bounds: readonly [number, number] | null;
}

/** Cells of five minutes. */
export const bandStep = duration(300_000);
const perDay = 288;
const historyDays = 28;
const testDays = 30;
/** A Monday. */
const start = instant(Date.UTC(2026, 0, 5));

/** Numbers in [0, 1) from a seed (mulberry32). */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

type Kind = 'gauge' | 'count' | 'share';
type SeasonShape = 'none' | 'day' | 'week';
type Noise = 'normal' | 'heavy' | 'wandering';

const kinds: readonly Kind[] = ['gauge', 'count', 'share'];
const shapes: readonly SeasonShape[] = ['none', 'day', 'week'];
const noises: readonly Noise[] = ['normal', 'heavy', 'wandering'];

/**
 * One labelled series.
 *
 * @param index decides its shape: kinds, seasons and noises in turn
 * @param seed decides its numbers
 * @param isClean whether nothing is wrong with it
 */
export function labelledSeries(index: number, seed: number, isClean = false): LabelledSeries {
  const random = randomFrom(seed * 1_000_003 + index * 7919 + 1);
  const kind = kinds[index % 3] as Kind;
  const shape = shapes[Math.floor(index / 3) % 3] as SeasonShape;
  const noise = noises[Math.floor(index / 9) % 3] as Noise;
  const count = (historyDays + testDays) * perDay;
  const testFrom = historyDays * perDay;
  const base = kind === 'count' ? 150 + random() * 850 : 40 + random() * 160;
  const swing = shape === 'none' ? 0 : 0.3 + random() * 0.4;
  const weekend = shape === 'week' ? 0.3 + random() * 0.4 : 1;
  const phase = random();
  const trend = random() < 0.3 ? (random() - 0.3) * 0.4 : 0;
  const sigma = 0.03 + random() * 0.05;
  const holidays = new Set(random() < 0.5 ? [3 + Math.floor(random() * 20)] : []);
  const labels = isClean ? [] : labelsOf(random, testFrom, count, shape);
  const normal = normalFrom(random);
  const values = new Float64Array(count);
  let wander = 0;
  let shifted = 0;
  for (let i = 0; i < count; i++) {
    const dayNumber = Math.floor(i / perDay);
    const ofDay = (i % perDay) / perDay;
    const isOff = dayNumber % 7 >= 5 || holidays.has(dayNumber);
    const hump = swing * (Math.sin(2 * Math.PI * (ofDay + phase)) + 0.35 * Math.sin(4 * Math.PI * (ofDay + phase)));
    const label = labels.find(({ from, to }) => i >= from && i < to);
    const isMissing = label?.kind === 'missing season';
    let part =
      1 +
      (isMissing ? -Math.abs(swing) * 0.6 : hump * (isOff ? weekend : 1)) -
      (isOff && shape === 'week' ? (1 - weekend) * 0.4 : 0);
    part += trend * (i / count);
    wander = 0.97 * wander + normal() * 0.24;
    const strayed =
      noise === 'normal' ? normal() : noise === 'heavy' ? heavyFrom(random) : 0.8 * wander + 0.6 * normal();
    const spread = label?.kind === 'changed variance' ? 4.5 : 1;
    // What comes by chance strays by itself, the more the less there is of it.
    const chance = kind === 'count' ? 1 / Math.sqrt(base * Math.max(0.1, part)) : 0;
    const usual = Math.sqrt(sigma * sigma + chance * chance);
    let stray = (sigma * strayed + chance * normal()) * spread;
    if (label) {
      const through = (i - label.from) / (label.to - label.from);
      const size = sizeOf(label, seed, index);
      if (label.kind === 'spike') stray += usual * size;
      if (label.kind === 'drop') stray -= usual * size;
      if (label.kind === 'drift') stray += usual * size * through;
      if (label.kind === 'shift' && i === label.from) shifted += usual * size * (random() < 0.5 ? -1 : 1);
    }
    values[i] = valueOf(kind, base, part, stray + shifted);
  }
  // Outliers and gaps in the history that nobody labelled.
  if (random() < 0.6)
    for (let n = 0; n < 12; n++) values[Math.floor(random() * testFrom)] = values[0]! * (random() < 0.5 ? 3 : 0.1);
  if (random() < 0.5)
    for (let n = 0; n < 4; n++) {
      const from = Math.floor(random() * testFrom);
      values.fill(NaN, from, Math.min(testFrom, from + Math.floor(random() * 80)));
    }
  if (random() < 0.3) for (let i = 0; i < count; i++) if (random() < 0.02) values[i] = NaN;
  if (kind === 'share') for (let i = 0; i < count; i++) values[i] = Math.max(0, Math.min(100, values[i] as number));
  return {
    name: `${kind}, season of ${shape}, ${noise} noise`,
    grid: { start, step: bandStep, count },
    values,
    testFrom,
    labels,
    bounds: kind === 'share' ? [0, 100] : null
  };
}

function valueOf(kind: Kind, base: number, part: number, stray: number): number {
  if (kind === 'share') return 100 / (1 + Math.exp(-(3.2 + 2 * (part - 1) + stray * 4)));
  if (kind === 'gauge') return base * (part + stray);
  return Math.max(0, Math.round(base * Math.max(0.1, part) * (stray < 0 ? 1 / (1 - stray) : 1 + stray)));
}

/** How many usual deviations a label amounts to. */
const sizeOf = ({ kind, from }: Label, seed: number, index: number): number => {
  const random = randomFrom(seed + index * 31 + from)();
  return { spike: 11, drop: 11, shift: 11, drift: 14, 'missing season': 0, 'changed variance': 0 }[kind] + random * 8;
};

function labelsOf(random: () => number, from: number, to: number, shape: SeasonShape): Label[] {
  const kinds: Label['kind'][] = ['spike', 'drop', 'shift', 'drift', 'changed variance'];
  if (shape !== 'none') kinds.push('missing season');
  const labels: Label[] = [];
  let at = from + perDay;
  for (;;) {
    at += Math.floor((2.5 + random() * 3) * perDay);
    const kind = kinds[Math.floor(random() * kinds.length)] as Label['kind'];
    const length = {
      spike: 4 + random() * 8,
      drop: 4 + random() * 8,
      shift: perDay,
      drift: 72 + random() * 48,
      'missing season': 100 + random() * 44,
      'changed variance': 48 + random() * 72
    }[kind];
    if (at + length + perDay > to) return labels;
    labels.push({ kind, from: at, to: at + Math.round(length) });
    at += Math.round(length);
  }
}

/** Numbers of the standard normal distribution (Box and Muller 1958). */
function normalFrom(random: () => number): () => number {
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** Laplace's distribution, of variance 1. */
function heavyFrom(random: () => number): number {
  const u = random() - 0.5;
  return (-Math.sign(u) * Math.log(1 - 2 * Math.abs(u))) / Math.SQRT2;
}
