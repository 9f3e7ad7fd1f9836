import { divideUnits } from '../units';

/** What one grid cell can be reduced to. */
export const statistics = [
  'avg',
  'min',
  'max',
  'sum',
  'count',
  'last',
  'median',
  'p75',
  'p90',
  'p95',
  'p99',
  'p99.9',
  'stddev',
  'rate',
  'increase'
] as const;
export type Statistic = (typeof statistics)[number];

const quantiles: Readonly<Partial<Record<Statistic, number>>> = {
  median: 0.5,
  p75: 0.75,
  p90: 0.9,
  p95: 0.95,
  p99: 0.99,
  'p99.9': 0.999
};

/** The share of readings that lie below a percentile; undefined for other statistics. @example quantileOf('p95') // 0.95 */
export const quantileOf = (statistic: Statistic): number | undefined => quantiles[statistic];

/** Whether a statistic needs every reading by itself: sums, counts and extremes of several do not give it. */
export const needsReadings = (statistic: Statistic): boolean =>
  statistic === 'stddev' || quantileOf(statistic) !== undefined;

/** Whether a statistic says how fast something grows, or by how much: of running totals and of changes, not of values. */
export const isOfGrowth = (statistic: Statistic): statistic is 'rate' | 'increase' =>
  statistic === 'rate' || statistic === 'increase';

/**
 * How long after the start of a sample's interval its sample ends a cell: an ordinary sample stands for the interval that starts with it, but what a running total
 * grew by is known only up to the instant of its newest sample, and so are changes that are stamped at their end.
 *
 * @returns milliseconds that one more sample takes: 0, or the sampling interval
 * @example waitsForNext('rate', 'cumulative', 60_000) // 60000
 */
export const waitsForNext = (
  statistic: Statistic,
  kind: string,
  samplingMs: number,
  stamp: 'start' | 'end' = 'start'
): number => (isOfGrowth(statistic) && (kind === 'cumulative' || stamp === 'end') ? samplingMs : 0);

/**
 * Why points of a shape cannot give a statistic, in words; null when they can.
 *
 * @param shape `summary` points each stand for several readings, `single` ones for one
 * @param kind gauge, delta or cumulative
 * @example cannotGive('p95', 'summary', 'gauge') // 'It comes as summaries of several readings, which have no 95th percentile.'
 */
export function cannotGive(statistic: Statistic, shape: string, kind: string): string | null {
  if (shape === 'summary' && needsReadings(statistic))
    return `It comes as summaries of several readings, which have no ${statisticName(statistic)}.`;
  if (kind === 'gauge' && isOfGrowth(statistic))
    return `It is a value of the moment, which has no ${statisticName(statistic)}: only running totals and changes do.`;
  return null;
}

/**
 * The unit of a statistic of something.
 *
 * @example unitOfStatistic('rate', 'By') // 'By/s'
 */
export const unitOfStatistic = (statistic: Statistic, code: string): string => {
  if (statistic === 'count') return '1';
  if (statistic !== 'rate') return code;
  const divided = divideUnits(code, 's');
  return divided.kind === 'unit' ? divided.code : code;
};

/** @example statisticName('avg') // 'average' */
export function statisticName(statistic: Statistic): string {
  const names: Record<Statistic, string> = {
    avg: 'average',
    min: 'minimum',
    max: 'maximum',
    sum: 'sum',
    count: 'count',
    last: 'last value',
    median: 'median',
    p75: '75th percentile',
    p90: '90th percentile',
    p95: '95th percentile',
    p99: '99th percentile',
    'p99.9': '99.9th percentile',
    stddev: 'standard deviation',
    rate: 'rate',
    increase: 'increase'
  };
  return names[statistic];
}

const adjectives: ReadonlySet<Statistic> = new Set(['avg', 'min', 'max', 'median']);

/** A statistic of something, in words. @example statisticOf('p95', 'queue depth') // '95th percentile of queue depth' */
export const statisticOf = (statistic: Statistic, what: string): string =>
  `${statisticName(statistic)} ${adjectives.has(statistic) ? '' : 'of '}${what}`;
