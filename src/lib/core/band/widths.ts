import type { Grid } from '../time';
import type { HourLevels } from './levels';
import { hourAt, seasonColumn, type BandModel } from './model';
import { Scratch } from './order';
import type { Transform } from './transform';

const hourMs = 3_600_000;

/** Cells, over all hours of the day, that widths are made from. */
const mostStrays = 6_000;

/** One width downwards and upwards for each hour of the day: how far values strayed from what was expected of them. */
export function widths(
  cells: Float64Array,
  grid: Grid,
  seasons: Pick<BandModel, 'slot' | 'day' | 'week'>,
  levels: HourLevels,
  transform: Transform,
  values: ArrayLike<number>
): { below: Float64Array; above: Float64Array } {
  const hours = Array.from({ length: 24 }, () => new Scratch(512));
  // Of an odd number of cells, so that all minutes of an hour have their turn.
  const every = Math.max(1, Math.floor(cells.length / mostStrays)) | 1;
  const season = seasonColumn(seasons, grid.start, grid.step * every, Math.ceil(cells.length / every));
  const sinceHour = (grid.start - levels.start) / grid.step;
  const perHour = hourMs / grid.step;
  const firstHour = hourAt(levels.start);
  for (let i = 0, s = 0; i < cells.length; i += every, s++) {
    const hour = ((sinceHour + i) / perHour) | 0;
    const stray = (cells[i] as number) - (levels.before[hour] as number) - (season[s] as number);
    hours[(firstHour + hour) % 24]?.add(stray);
  }
  const sides = hours.map((hour) => sidesOf(hour));
  const whole = meanSides(sides);
  const least = leastWidth(transform, values);
  const smoothed = (side: 'below' | 'above') =>
    Float64Array.from({ length: 24 }, (_, h) => {
      const near = [h - 1, h, h, h + 1].flatMap((other) => sides[(other + 24) % 24]?.[side] ?? []);
      const own = near.length === 0 ? whole[side] : near.reduce((sum, one) => sum + one, 0) / near.length;
      return Math.max(least, 0.7 * own + 0.3 * whole[side]);
    });
  return { below: smoothed('below'), above: smoothed('above') };
}

type Sides = Readonly<Record<'below' | 'above', number>>;

/** The spread on both sides of the median: the outer of what the quartile and the tenth of a normal distribution would be. */
function sidesOf(scratch: Scratch): Sides | null {
  if (scratch.count < 12) return null;
  const at = (p: number) => scratch.quantile(p);
  const middle = at(0.5);
  return {
    below: Math.max((middle - at(0.25)) / 0.6745, (middle - at(0.1)) / 1.2816),
    above: Math.max((at(0.75) - middle) / 0.6745, (at(0.9) - middle) / 1.2816)
  };
}

function meanSides(sides: readonly (Sides | null)[]): Sides {
  const known = sides.flatMap((one) => one ?? []);
  const mean = (side: 'below' | 'above') =>
    known.length === 0 ? 0 : known.reduce((sum, one) => sum + one[side], 0) / known.length;
  return { below: mean('below'), above: mean('above') };
}

/** A width is at least half a hundredth of the usual value, and half of the smallest step of whole numbers: what never strays is not condemned for straying a little. */
function leastWidth(transform: Transform, values: ArrayLike<number>): number {
  const scratch = new Scratch(1024);
  let isWhole = true;
  const every = Math.max(1, Math.floor(values.length / 1000));
  for (let i = 0; i < values.length; i += every) {
    const value = values[i] as number;
    if (value !== value) continue;
    scratch.add(Math.abs(value));
    if (!Number.isInteger(value)) isWhole = false;
  }
  const usual = scratch.count > 0 ? scratch.median() : 0;
  const part = 0.005;
  switch (transform.kind) {
    case 'none':
      return Math.max(part * usual, isWhole ? 0.4 : 0, 1e-12);
    case 'root':
      return Math.max((part / 2) * Math.sqrt(usual), isWhole ? 0.4 : 0, 1e-12);
    case 'log':
    case 'share':
      return part;
    default:
      throw new RangeError(`leastWidth: no transform "${String(transform satisfies never)}"`);
  }
}
