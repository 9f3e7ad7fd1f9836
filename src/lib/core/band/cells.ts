import { cellStart, type Grid } from '../time';
import { hourLevels, type HourLevels } from './levels';
import { hourAt, seasonAt, type BandModel } from './model';
import { restored, transformed, transformedColumn, type Transform } from './transform';

/** An anomaly band over the cells of one series, as its transform looks at them; NaN where there is none. */
export interface BandCells {
  readonly transform: Transform;
  readonly centre: Float64Array;
  /** One width of the band, downwards and upwards. */
  readonly below: Float64Array;
  readonly above: Float64Array;
  /** What the newest of its models learned from; null when it has none. */
  readonly learned: Pick<BandModel, 'days' | 'season'> | null;
}

const hourMs = 3_600_000;

/** Hours before the first cell that a level is made of, with room for gaps: values must be given from here on. */
export const bandLeadHours = 48;

/**
 * The band of a series over the cells from `first` on: what is expected of each cell at its time of the day and the week, from where the series stood in the 24 hours before.
 *
 * @param values of whole cells, a gap is NaN; from two days before `first`, for the level
 * @param modelAt the model that was in force at a moment; null where there was none
 */
export function bandCells(
  values: ArrayLike<number>,
  grid: Grid,
  first: number,
  modelAt: (at: number) => BandModel | null
): BandCells {
  const shown: Grid = { start: cellStart(grid, first), step: grid.step, count: Math.max(0, grid.count - first) };
  let of: BandModel | null = null;
  let levels: HourLevels = { start: 0, before: new Float64Array(0) };
  return bandOn(shown, modelAt, (at, model) => {
    if (model !== of) {
      of = model;
      levels = hourLevels(transformedColumn(model.transform, values), grid.start, grid.step, model);
    }
    return levels.before[Math.floor((at - levels.start) / hourMs)] ?? NaN;
  });
}

/**
 * A band over the cells of a grid.
 *
 * @param levelAt where the series stood at a moment by what came before; NaN where that is not known: it stands where its model ends then
 */
export function bandOn(
  grid: Grid,
  modelAt: (at: number) => BandModel | null,
  levelAt: (at: number, model: BandModel) => number
): BandCells {
  const [centre, below, above] = [0, 0, 0].map(() => new Float64Array(grid.count).fill(NaN)) as [
    Float64Array,
    Float64Array,
    Float64Array
  ];
  let transform: Transform | null = null;
  let newest: BandModel | null = null;
  for (let i = 0; i < grid.count; i++) {
    const at = cellStart(grid, i);
    const model = modelAt(at);
    if (model === null) continue;
    transform ??= model.transform;
    newest = model;
    const known = levelAt(at, model);
    const middle = (known === known ? known : model.level) + seasonAt(model, at);
    const hour = hourAt(at);
    const [down, up] = [model.below[hour] as number, model.above[hour] as number];
    const same = isSame(transform, model.transform);
    centre[i] = same ? middle : moved(model.transform, transform, middle);
    below[i] = same ? down : widthMoved(model.transform, transform, middle, -down);
    above[i] = same ? up : widthMoved(model.transform, transform, middle, up);
  }
  const learned = newest && { days: newest.days, season: newest.season };
  return { transform: transform ?? { kind: 'none' }, centre, below, above, learned };
}

const isSame = (one: Transform, other: Transform): boolean =>
  one.kind === other.kind && (one.kind !== 'log' || one.offset === (other as typeof one).offset);

/** A number of one transform as another looks at it. */
const moved = (from: Transform, to: Transform, number: number): number => transformed(to, restored(from, number));

/** The edge that bands are mostly drawn at, in widths: there, a width of another transform is exact. */
const exactAt = 5;
const widthMoved = (from: Transform, to: Transform, middle: number, width: number): number =>
  Math.abs(moved(from, to, middle + exactAt * width) - moved(from, to, middle)) / exactAt;

/** An edge of a band, so many widths above what is expected, or below with a negative number: in the unit of the series. */
export function bandEdge({ transform, centre, below, above }: BandCells, widths: number): Float64Array {
  const width = widths < 0 ? below : above;
  return Float64Array.from(centre, (middle, i) => restored(transform, middle + widths * (width[i] as number)));
}
