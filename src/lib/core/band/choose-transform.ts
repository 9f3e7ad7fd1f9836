import { trendOf } from '../series';
import { sampled, Scratch } from './order';
import type { Transform } from './transform';

/** Levels must differ by this factor for their spread to say something. */
const leastFactor = 1.5;
/** A share counts as near an end within this part of its range. */
const nearEnd = 0.1;

/**
 * The transform that suits values, by how their spread grows with their level (the spread against level plot of Tukey 1977): not at all, as the square root, or in proportion. A share that lives near one of its bounds
 * is looked at by its odds.
 *
 * @param values in order of time; a gap is NaN
 * @param perDay cells of a day
 * @param bounds that the values never leave; null when there are none
 */
export function chooseTransform(
  values: ArrayLike<number>,
  perDay: number,
  bounds: readonly [number, number] | null
): Transform {
  const scratch = sampled(values, 1000);
  if (scratch.count < 24) return { kind: 'none' };
  const middle = scratch.median();
  const least = scratch.quantile(0);
  if (bounds && Number.isFinite(bounds[0]) && Number.isFinite(bounds[1])) {
    const [low, high] = bounds;
    const part = (middle - low) / (high - low);
    return part < nearEnd || part > 1 - nearEnd ? { kind: 'share', low, high } : { kind: 'none' };
  }
  if (least < 0 || middle <= 0) return { kind: 'none' };
  const growth = spreadGrowth(values, perDay);
  if (growth === null || growth < 0.3) return { kind: 'none' };
  // What never comes near 0 mostly grows and shrinks by factors, its season too, though it be counted.
  const low = scratch.quantile(0.05);
  return low < middle / 20 ? { kind: 'root' } : { kind: 'log', offset: low / 20 };
}

/** Stretches whose spread is compared, taken evenly from the whole history. */
const mostStretches = 40;

/** How the spread of stretches of three hours grows with their level: the power, 0 for not at all; null when the levels are too alike to say. */
function spreadGrowth(values: ArrayLike<number>, perDay: number): number | null {
  const length = Math.max(6, Math.round(perDay / 8));
  const scratch = new Scratch();
  const levels: number[] = [];
  const spreads: number[] = [];
  const stretches = Math.floor(values.length / length);
  const every = Math.max(1, Math.floor(stretches / mostStretches));
  for (let stretch = 0; stretch < stretches; stretch += every) {
    const start = stretch * length;
    scratch.clear();
    // Differences of neighbours: the season between them is small.
    for (let i = start + 1; i < start + length; i++)
      scratch.add(Math.abs((values[i] as number) - (values[i - 1] as number)));
    if (scratch.count < 4) continue;
    const spread = scratch.median();
    scratch.clear();
    for (let i = start; i < start + length; i++) scratch.add(values[i] as number);
    const level = scratch.median();
    if (spread > 0 && level > 0) {
      levels.push(Math.log(level));
      spreads.push(Math.log(spread));
    }
  }
  if (levels.length < 8) return null;
  const ordered = [...levels].sort((a, b) => a - b);
  const [low, high] = [ordered[Math.floor(levels.length * 0.1)], ordered[Math.floor(levels.length * 0.9)]];
  if ((high as number) - (low as number) < Math.log(leastFactor)) return null;
  // Equal levels would divide by nothing.
  return (
    trendOf(
      levels.map((level, i) => level + i * 1e-9),
      spreads
    )?.slope ?? null
  );
}
