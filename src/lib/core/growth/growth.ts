import { trendOf } from '../series';

/** How a value will go on, cell by cell, and when it reaches a limit. */
export interface Growth {
  /** By how much it changes from one cell to the next, by the trend; and between what that lies with 90 % confidence. */
  readonly slope: number;
  readonly slopeLeast: number;
  readonly slopeMost: number;
  /** Expected values of the cells ahead, and the ends of the interval that holds 80 of 100 of them. */
  readonly expected: Float64Array;
  readonly low: Float64Array;
  readonly high: Float64Array;
}

/** Cells that a week has, where cells are days; weekdays that differ are told apart from this many weeks on. */
const week = 7;
const weeksToTell = 4;
/** Cells with a value that a forecast needs. */
export const leastCells = 14;
/** Of the errors that earlier forecasts would have made, this share lies within the interval. */
const within = 0.8;
/** Earlier forecasts that are tried. */
const mostOrigins = 24;
/** Values that one trend is made of: it looks at all pairs. */
const mostPoints = 120;

/**
 * How a value will go on, from what it was: the robust trend (Theil and Sen) with what each day of the week differs from it. The interval is what earlier forecasts of the same history, made at many moments in it, would have missed by at each
 * distance; farther ahead than any could be tried, it widens in proportion.
 *
 * @param values of cells of a day, the newest last; NaN for gaps
 * @param ahead cells to forecast
 * @returns null with fewer than 14 values
 * @example growthOf(Float64Array.from({ length: 60 }, (_, day) => 100 + 2 * day), 30)?.expected[29] // 278
 */
export function growthOf(values: Float64Array, ahead: number): Growth | null {
  const line = lineOf(values, values.length);
  if (line === null) return null;
  const errors = missedBy(values, ahead, line);
  const expected = new Float64Array(ahead);
  const low = new Float64Array(ahead);
  const high = new Float64Array(ahead);
  for (let distance = 1; distance <= ahead; distance++) {
    const value = at(line, values.length - 1 + distance);
    const missed = errors[distance - 1] as number;
    expected[distance - 1] = value;
    low[distance - 1] = value - missed;
    high[distance - 1] = value + missed;
  }
  return { slope: line.slope, slopeLeast: line.least, slopeMost: line.most, expected, low, high };
}

interface Line {
  readonly level: number;
  readonly slope: number;
  readonly least: number;
  readonly most: number;
  /** What each day of the week differs by; zeros where weeks are too few. */
  readonly weekdays: Float64Array;
}

const at = ({ level, slope, weekdays }: Line, cell: number): number =>
  level + slope * cell + (weekdays[cell % week] as number);

/** The line through the first so many values; null with too few. */
function lineOf(values: Float64Array, until: number): Line | null {
  const cells: number[] = [];
  for (let cell = 0; cell < until; cell++) if (!Number.isNaN(values[cell])) cells.push(cell);
  if (cells.length < leastCells) return null;
  const every = Math.ceil(cells.length / mostPoints);
  // Steps that a week is no multiple of, so that every weekday has its part.
  const stride = every % week === 0 ? every + 1 : every;
  const picked = cells.filter((_, index) => (cells.length - 1 - index) % stride === 0);
  const trend = trendOf(
    picked,
    picked.map((cell) => values[cell] as number)
  );
  if (trend === null) return null;
  const weekdays = new Float64Array(week);
  if (cells.length >= week * weeksToTell) {
    for (let day = 0; day < week; day++)
      weekdays[day] = median(
        cells
          .filter((cell) => cell % week === day)
          .map((cell) => (values[cell] as number) - trend.level - trend.slope * cell)
      );
    // Together they change nothing of the level.
    const middle = weekdays.reduce((sum, one) => sum + one, 0) / week;
    for (let day = 0; day < week; day++) weekdays[day] = (weekdays[day] as number) - middle;
  }
  return { ...trend, weekdays };
}

/** By how much forecasts of the history missed, at each distance ahead: what {@link within} of them stayed below. */
function missedBy(values: Float64Array, ahead: number, line: Line): Float64Array {
  const count = values.length;
  const first = Math.max(leastCells, Math.floor(count / 3));
  const origins: { readonly until: number; readonly line: Line }[] = [];
  const step = Math.max(1, Math.ceil((count - first) / mostOrigins));
  for (let until = count - 1; until >= first; until -= step) {
    const line = lineOf(values, until);
    if (line !== null) origins.push({ until, line });
  }
  const errors = Array.from({ length: ahead }, (_, index) =>
    origins.flatMap(({ until, line }) => {
      const cell = until + index;
      const value = cell < count ? (values[cell] as number) : NaN;
      return Number.isNaN(value) ? [] : [Math.abs(value - at(line, cell))];
    })
  );
  // Distances near each other are looked at together: of few errors alone, the greatest would make the interval too wide.
  const known = new Float64Array(ahead).fill(NaN);
  for (let index = 0; index < ahead && (errors[index]?.length ?? 0) >= leastTried;) {
    const near = Math.max(leastNear, Math.floor(index / 4));
    const missed = quantile(errors.slice(Math.max(0, index - near), index + near + 1).flat(), within);
    // Far ahead, the next ones look at nearly the same.
    const next = index + 1 + Math.floor(index / 20);
    for (; index < next && (errors[index]?.length ?? 0) >= leastTried; index++) known[index] = missed;
  }
  // What could not be tried is as wide at least as the trend itself is uncertain.
  const left = [...values.keys()].flatMap((cell) => {
    const value = values[cell] as number;
    return Number.isNaN(value) ? [] : [Math.abs(value - at(line, cell))];
  });
  const slope = Math.max(line.most - line.slope, line.slope - line.least, 0);
  return widening(known, quantile(left, within), slope);
}

/** So many distances on each side are looked at together at least. */
const leastNear = 7;
/** Earlier forecasts that a distance needs, to say by how much they miss. */
const leastTried = 5;

/** Farther ahead, nothing is known better; beyond what could be tried, it widens as far as before, and as the trend may be another. */
function widening(known: Float64Array, noise: number, slope: number): Float64Array {
  const missed = new Float64Array(known.length);
  let last = 0;
  let lastAt = 0;
  for (let index = 0; index < known.length; index++) {
    const one = known[index] as number;
    if (Number.isNaN(one))
      missed[index] = Math.max(lastAt === 0 ? 0 : (last * (index + 1)) / lastAt, noise + slope * (index + 1));
    else {
      last = Math.max(last, one);
      lastAt = index + 1;
      missed[index] = last;
    }
  }
  return missed;
}

function median(values: number[]): number {
  const sorted = Float64Array.from(values).sort();
  const middle = sorted.length >> 1;
  if (sorted.length === 0) return 0;
  return sorted.length % 2 === 1
    ? (sorted[middle] as number)
    : ((sorted[middle - 1] as number) + (sorted[middle] as number)) / 2;
}

/** By linear interpolation (Hyndman and Fan, type 7). */
function quantile(values: readonly number[], share: number): number {
  const sorted = Float64Array.from(values).sort();
  const place = (sorted.length - 1) * share;
  const low = Math.floor(place);
  const below = sorted[low] as number;
  const above = sorted[Math.min(sorted.length - 1, low + 1)] as number;
  return below + (above - below) * (place - low);
}

/** In how many cells a limit is reached, from the newest on; null for not within those ahead. */
export interface Reached {
  readonly earliest: number | null;
  readonly expected: number | null;
  readonly latest: number | null;
}

/**
 * When a growing value reaches a limit: by the upper end of the interval, as expected, and by the lower end.
 *
 * @param is whether it is reached from below or from above
 * @example reachedWhen(growth, 'above', 95).expected // 41: in 41 days
 */
export function reachedWhen({ expected, low, high }: Growth, is: 'above' | 'below', limit: number): Reached {
  const first = (values: Float64Array): number | null => {
    const index = values.findIndex((value) => (is === 'above' ? value >= limit : value <= limit));
    return index === -1 ? null : index + 1;
  };
  return {
    earliest: first(is === 'above' ? high : low),
    expected: first(expected),
    latest: first(is === 'above' ? low : high)
  };
}
