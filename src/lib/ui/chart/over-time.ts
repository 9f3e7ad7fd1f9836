import type { ChartConfiguration, ChartDataset } from 'chart.js';
import { drawnCells } from '$lib/core/series';
import { timeTicks } from '$lib/core/time';
import { axisEnds, digits, displayScale, unit } from '$lib/core/units';
import type { Course } from './course';
import { colourName, startOfCell, type BandAreas, type Limit, type Line, type Picture } from './picture';

type Point = { x: number; y: number };
export type TimeChartType = 'course' | 'bar';

/** The scale on which the numbers of a picture are drawn, and what they reach. */
function scaleOfPicture(
  { unit: code, lines, drawing = 'lines', earlier, bands, otherLimits = [] }: Picture,
  limits: readonly Limit[]
) {
  const isStacked = drawing === 'stacked' || drawing === 'bars';
  const bounds = isStacked ? undefined : unit(code).bounds;
  const extremes = isStacked
    ? stackedExtremes([lines, earlier?.lines ?? []], limits)
    : extremesOf([...lines, ...(earlier?.lines ?? []), ...edgesOf(bands), ...otherLimits], limits);
  return { isStacked, bounds, extremes, scale: displayScale(code, bounds ?? extremes.map(Math.abs)) };
}

/** The edges of bands as lines, as far as they decide what an axis shows. */
const edgesOf = (bands: BandAreas | undefined): Pick<Line, 'values'>[] =>
  (bands?.areas ?? []).flatMap(({ low, high }) => [{ values: low }, { values: high }]);

/** By what the numbers of a picture are divided where they are drawn. @example drawnDivisor(picture, []) // 1024 for kilobytes */
export const drawnDivisor = (picture: Picture, limits: readonly Limit[]): number =>
  scaleOfPicture(picture, limits).scale.divisor;

/**
 * The configuration of a chart over time: lines, areas, stacked areas or bars.
 *
 * @param zone an IANA zone for the axis
 * @param colour a colour of the theme by its name, such as `--hue-1`
 * @param columns device pixels over which lines are drawn: of more cells than that, those are drawn that give the same line
 */
export function overTimeConfiguration(
  picture: Picture,
  limits: readonly Limit[],
  zone: string,
  columns: number,
  colour: (name: string) => string
): ChartConfiguration<TimeChartType, Point[]> {
  const { lines, range, drawing = 'lines', axis = {}, earlier, bands } = picture;
  const all = [...lines, ...(earlier?.lines ?? [])];
  const { isStacked, bounds, extremes, scale } = scaleOfPicture(picture, limits);
  const natural = bounds && axisEnds(bounds, ...extremes);
  const [from, to] = [axis.from ?? natural?.[0], axis.to ?? natural?.[1]];
  const quiet = colour('--quiet');
  const courses = (of: readonly Line[], grid: GridOfPicture, isEarlier = false) =>
    coursesOf(of, grid, {
      colour,
      columns,
      divisor: scale.divisor,
      isStacked,
      isFilled: drawing === 'areas' || isStacked,
      isEarlier
    });
  const before = earlier ? courses(earlier.lines, earlier, true) : [];
  const areas = isStacked || !bands ? [] : areasOf(bands, colour, scale.divisor);
  const others = isStacked ? [] : limitCourses(picture, colour, scale.divisor);
  const drawn = drawing === 'bars' ? before : [...others, ...before, ...courses(lines, picture), ...areas];
  const bars =
    drawing === 'bars' ? lines.map((line) => barsOf(line, picture, colour(colourName(line)), scale.divisor)) : [];
  const reached = {
    least: extremes[0] / scale.divisor,
    most: extremes[1] / scale.divisor,
    leastAboveZero: axis.log ? leastAboveZero(all) / scale.divisor : NaN
  };
  return {
    type: drawing === 'bars' ? 'bar' : 'course',
    data: {
      datasets: [
        ...(drawn.length > 0 ? [{ type: 'course' as const, data: [], courses: drawn, extremes: reached }] : []),
        ...bars
      ]
    },
    options: {
      animation: false,
      parsing: false,
      normalized: true,
      maintainAspectRatio: false,
      events: [],
      layout: { padding: { top: 4, right: 2 } },
      scales: {
        x: {
          type: 'linear',
          stacked: drawing === 'bars',
          offset: false,
          min: range.from,
          max: range.to,
          grid: { display: false },
          border: { color: colour('--line-strong') },
          afterBuildTicks: (axis) => {
            const most = Math.max(1, Math.floor(axis.maxWidth / tickRoom));
            axis.ticks = timeTicks(range, zone, most).map(({ at, text }) => ({ value: at, label: text }));
          },
          ticks: {
            color: quiet,
            maxRotation: 0,
            autoSkip: false,
            callback(_value, index) {
              return this.ticks[index]?.label ?? '';
            }
          }
        },
        y: {
          type: axis.log ? 'logarithmic' : 'linear',
          stacked: drawing === 'bars',
          min: from === undefined ? undefined : from / scale.divisor,
          max: to === undefined ? undefined : to / scale.divisor,
          ...(axis.log ? {} : { beginAtZero: from === undefined || from === 0 }),
          suggestedMax:
            limits.length > 0 ? (Math.max(...limits.map(({ value }) => value)) * 1.1) / scale.divisor : undefined,
          border: { display: false, dash: [2, 3] },
          grid: { color: colour('--line') },
          ticks: {
            color: quiet,
            maxTicksLimit: 5,
            callback: (value, index, ticks) => {
              const apart = Math.abs((ticks[1]?.value ?? 1) - (ticks[0]?.value ?? 0));
              const text = digits(Number(value), apart > 0 ? Math.max(0, Math.ceil(-Math.log10(apart))) : 0);
              return index === ticks.length - 1 && scale.text !== '' ? `${text} ${scale.text}` : text;
            }
          }
        }
      },
      plugins: {
        annotation: {
          // Cut short by the next update, its own animations leave lines in a colour halfway.
          animations: { numbers: { duration: 0 }, colors: { duration: 0 } },
          annotations: limits.map(({ value, text, severity }) => ({
            type: 'line' as const,
            scaleID: 'y',
            value: value / scale.divisor,
            borderColor: colour(`--${severity}`),
            borderWidth: 1,
            borderDash: [5, 3],
            label: {
              display: true,
              content: text,
              position: 'start' as const,
              // above its line, or below it where there is no room
              yAdjust: ({ chart }) =>
                (chart.scales['y']?.getPixelForValue(value / scale.divisor) ?? 99) - chart.chartArea.top < 14 ? 8 : -8,
              padding: 2,
              backgroundColor: 'transparent',
              color: colour(`--${severity}`),
              font: { size: 10.5, weight: 'normal' as const }
            }
          }))
        }
      }
    }
  };
}

type GridOfPicture = Pick<Picture, 'start' | 'step' | 'count' | 'calendar'> & { readonly shift?: number };

interface CourseOptions {
  readonly colour: (name: string) => string;
  readonly columns: number;
  readonly divisor: number;
  /** Whether each stands on those before it. */
  readonly isStacked: boolean;
  readonly isFilled: boolean;
  /** Whether it is what was there earlier: thin, dotted and empty. */
  readonly isEarlier: boolean;
}

/** Pixels that a name on the time axis needs with the space beside it. */
const tickRoom = 68;

/** Lines that a chart draws broad. Of more of them, only those are broad on which something is raised: thin ones cover less of each other, and are drawn in a sixth of the time. */
const mostBroad = 12;

/** Lines in the unit of the axis, so that its ticks are round there. */
function coursesOf(lines: readonly Line[], grid: GridOfPicture, options: CourseOptions): Course[] {
  const { colour, columns, divisor, isStacked, isFilled, isEarlier } = options;
  const at = startsOf(grid);
  const isThin = isEarlier || isStacked || lines.length > mostBroad;
  let below: Float64Array | null = null;
  return lines.map((line): Course => {
    const floor: Float64Array | null = below;
    const values = line.values.map((value, cell) => value / divisor + (floor?.[cell] ?? 0));
    if (isStacked) below = values.map((value, cell) => (Number.isNaN(value) ? (floor?.[cell] ?? 0) : value));
    const hue = colour(colourName(line));
    return {
      at,
      values,
      // Stacked ones meet in every cell; only lines that stand alone may leave cells out.
      complete: line.complete ?? Infinity,
      cells: isStacked ? [...values.keys()] : drawnCells(values, columns),
      colour: isEarlier ? `${hue}b0` : hue,
      width: line.isRaised && !isEarlier ? 2 : isThin ? 1 : 1.5,
      dash: isEarlier ? [1, 3] : line.dashed ? [5, 3] : [],
      fill: !isFilled || isEarlier ? null : `${hue}${isStacked ? '70' : '30'}`,
      floor
    };
  });
}

/** Limits at the times at which they are others than usual. */
function limitCourses(picture: Picture, colour: (name: string) => string, divisor: number): Course[] {
  const { otherLimits = [] } = picture;
  if (otherLimits.length === 0) return [];
  const at = startsOf(picture);
  return otherLimits.map(({ severity, values }): Course => ({
    ...{ at, values: values.map((value) => value / divisor), cells: [...values.keys()], complete: Infinity },
    ...{ colour: colour(`--${severity}`), width: 1, dash: [5, 3], fill: null, floor: null }
  }));
}

/** Bands as areas between their edges, without lines. */
function areasOf({ areas, ...grid }: BandAreas, colour: (name: string) => string, divisor: number): Course[] {
  const at = startsOf(grid);
  return areas.map(({ hue, low, high }): Course => {
    const values = high.map((value) => value / divisor);
    return {
      ...{ at, values, complete: Infinity, cells: [...values.keys()], width: 0.5, dash: [] },
      colour: `${colour(`--hue-${hue}`)}50`,
      fill: `${colour(`--hue-${hue}`)}22`,
      floor: low.map((value) => value / divisor)
    };
  });
}

/** Where the cells of a grid begin, later by its shift. */
const startsOf = (grid: GridOfPicture): Float64Array =>
  Float64Array.from({ length: grid.count }, (_, cell) => startOfCell(grid, cell) + (grid.shift ?? 0));

function barsOf(
  { values, dashed, complete = Infinity }: Line,
  grid: GridOfPicture,
  hue: string,
  divisor: number
): ChartDataset<'bar', Point[]> {
  return {
    type: 'bar',
    data: Array.from(values, (value, cell) => ({ x: startOfCell(grid, cell), y: value / divisor })),
    backgroundColor: Array.from(values, (_, cell) => (cell >= complete ? `${hue}55` : dashed ? `${hue}99` : hue)),
    barPercentage: 1,
    categoryPercentage: 0.9,
    barThickness: 'flex'
  };
}

/** The smallest value above zero that lines have. */
function leastAboveZero(lines: readonly Line[]): number {
  let least = Infinity;
  for (const { values } of lines) for (const value of values) if (value > 0 && value < least) least = value;
  return least;
}

/** The smallest and the largest of what a chart draws. */
function extremesOf(lines: readonly Pick<Line, 'values'>[], limits: readonly Limit[]): [number, number] {
  const values = limits.map(({ value }) => value);
  let [least, most] = [Math.min(Infinity, ...values), Math.max(-Infinity, ...values)];
  for (const { values: of } of lines)
    for (const value of of) {
      if (value < least) least = value;
      if (value > most) most = value;
    }
  return [least, most];
}

/** Zero, and the highest sum that a cell of any stack has. */
function stackedExtremes(stacks: readonly (readonly Line[])[], limits: readonly Limit[]): [number, number] {
  let most = Math.max(0, extremesOf([], limits)[1]);
  for (const lines of stacks) {
    const sums = new Float64Array(lines[0]?.values.length ?? 0);
    for (const { values } of lines)
      for (const [cell, value] of values.entries()) if (!Number.isNaN(value)) sums[cell] = (sums[cell] ?? 0) + value;
    for (const sum of sums) if (sum > most) most = sum;
  }
  return [0, most];
}
