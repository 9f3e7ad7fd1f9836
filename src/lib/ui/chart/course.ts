import {
  BarElement,
  DatasetController,
  type CartesianParsedData,
  type Chart,
  type ChartDataset,
  type Scale
} from 'chart.js';

/** One line over time, drawn from its columns as they are. */
export interface Course {
  /** Where each cell begins; shared by all lines of a grid. */
  readonly at: Float64Array;
  /** One value for each cell in the unit of the axis; a gap is NaN. */
  readonly values: Float64Array;
  /** The cells that are drawn, rising. */
  readonly cells: ArrayLike<number>;
  /** How many cells are complete: those after them are drawn lighter. */
  readonly complete: number;
  readonly colour: string;
  readonly width: number;
  /** Lengths of dashes and gaps, pixels; empty for a line without gaps. */
  readonly dash: readonly number[];
  /** The colour of the area below; null draws none. */
  readonly fill: string | null;
  /** What the area stands on, one value for each cell; null for zero. */
  readonly floor: Float64Array | null;
}

/** All lines of a chart as one dataset of Chart.js, which would otherwise make an object for every point and resolve the options of each. */
export interface CourseData {
  /** The first is drawn over the others. */
  readonly courses: readonly Course[];
  /** The smallest and the largest value drawn, and the smallest above zero: an axis of powers begins there. */
  readonly extremes: { readonly least: number; readonly most: number; readonly leastAboveZero: number };
}

declare module 'chart.js' {
  interface ChartTypeRegistry {
    course: {
      chartOptions: ChartTypeRegistry['line']['chartOptions'];
      datasetOptions: CourseData;
      defaultDataPoint: never;
      metaExtensions: object;
      parsedDataType: CartesianParsedData;
      scales: ChartTypeRegistry['line']['scales'];
    };
  }
}

/** Draws courses with the scales of their chart. */
export class CourseController extends DatasetController<'course'> {
  static id = 'course';
  /** Chart.js wants a kind of element; there is none of them, since its own list of data is empty. */
  static defaults = { datasetElementType: false, dataElementType: BarElement.id };
  static overrides = { scales: { _index_: { type: 'linear' }, _value_: { type: 'linear' } } };

  override getMinMax(scale: Scale): { min: number; max: number } {
    if (scale.axis === 'x') return { min: Infinity, max: -Infinity }; // the range that is shown decides
    const { least, most, leastAboveZero } = this.#data.extremes;
    return { min: scale.type === 'logarithmic' ? leastAboveZero : least, max: most };
  }

  get #data(): CourseData {
    return this.getDataset() as ChartDataset<'course'> & CourseData;
  }

  override update(): void {
    // There are no elements that could be moved.
  }

  override draw(): void {
    const { xScale, yScale } = this.getMeta();
    if (!xScale || !yScale) return;
    const { ctx, chartArea } = this.chart;
    const { courses } = this.#data;
    ctx.save();
    clipTo(ctx, chartArea);
    for (let index = courses.length - 1; index >= 0; index--) drawCourse(ctx, courses[index] as Course, xScale, yScale);
    ctx.restore();
  }
}

/** Nothing is drawn before the range or after it, where cells reach beyond it; a line along the top or the foot keeps its width. */
export function clipTo(
  ctx: Pick<Chart['ctx'], 'beginPath' | 'rect' | 'clip'>,
  { left, right, top, bottom }: Chart['chartArea']
): void {
  ctx.beginPath();
  ctx.rect(left, top - 2, right - left, bottom - top + 4);
  ctx.clip();
}

/** What drawing asks of a scale. */
type Ruler = Pick<Scale, 'min' | 'max' | 'type' | 'getPixelForValue'>;

/** Draws one course: its line, which stops at gaps, a point for a value between two gaps, as long as its cell, and the area below each stretch; all of it lighter where cells are still filling. */
export function drawCourse(ctx: Chart['ctx'], course: Course, x: Ruler, y: Ruler): void {
  const { cells, values, complete } = course;
  let edge = cells.length; // the place of the first cell that is not complete
  let isFilling = false;
  while (edge > 0 && (cells[edge - 1] as number) >= complete)
    isFilling = !Number.isNaN(values[cells[--edge] as number]) || isFilling;
  drawCells(ctx, course, 0, edge, x, y);
  if (!isFilling) return;
  ctx.save();
  ctx.globalAlpha = 0.4;
  drawCells(ctx, course, Math.max(0, edge - 1), cells.length, x, y); // from the last complete cell on
  ctx.restore();
}

/** Draws the part [start, end) of a list of cells. */
export function drawCells(ctx: Chart['ctx'], course: Course, start: number, end: number, x: Ruler, y: Ruler): void {
  const { at, values, cells, colour, width, dash, fill, floor } = course;
  const acrossOf = straight(x);
  const upOf = y.type === 'logarithmic' ? (value: number) => y.getPixelForValue(value) : straight(y);
  const ground = upOf(Math.min(y.max, Math.max(y.min, 0)));
  ctx.beginPath();
  ctx.strokeStyle = ctx.fillStyle = colour;
  ctx.lineWidth = width;
  ctx.lineJoin = 'bevel'; // a mitred peak would reach beyond its value
  ctx.setLineDash([...dash]);
  const lonely: number[] = [];
  const areas: [first: number, last: number][] = [];
  let first = -1; // where in the list the stretch began
  for (let i = start; i <= end; i++) {
    const cell = cells[i] as number;
    const up = i < end ? upOf(values[cell] as number) : NaN;
    if (Number.isNaN(up)) {
      if (first >= 0) {
        if (first === i - 1) lonely.push(cells[first] as number);
        else areas.push([first, i - 1]);
      }
      first = -1;
    } else if (first < 0) {
      first = i;
      ctx.moveTo(acrossOf(at[cell] as number), up);
    } else ctx.lineTo(acrossOf(at[cell] as number), up);
  }
  ctx.stroke();
  // Values between two gaps have no line to lie on.
  if (lonely.length > 0) {
    ctx.beginPath();
    for (const cell of lonely) {
      const [across, up] = [acrossOf(at[cell] as number), upOf(values[cell] as number)];
      ctx.moveTo(across + width, up);
      ctx.arc(across, up, width, 0, 2 * Math.PI);
      const long = acrossOf(at[cell + 1] ?? 2 * (at[cell] as number) - (at[cell - 1] as number)) - across;
      if (long > 2 * width) ctx.rect(across, up - width / 2, long, width);
    }
    ctx.fill();
  }
  if (fill === null || areas.length === 0) return;
  ctx.beginPath();
  ctx.fillStyle = fill;
  for (const [from, to] of areas) {
    for (let i = from; i <= to; i++) {
      const cell = cells[i] as number;
      ctx.lineTo(acrossOf(at[cell] as number), upOf(values[cell] as number));
    }
    for (let i = to; i >= from; i--) {
      const cell = cells[i] as number;
      ctx.lineTo(acrossOf(at[cell] as number), floor === null ? ground : upOf(floor[cell] as number));
    }
    ctx.closePath();
  }
  ctx.fill();
}

/** The pixel of a value on a scale that is straight, without asking the scale for each. */
export function straight(scale: Ruler): (value: number) => number {
  const { min, max } = scale;
  const start = scale.getPixelForValue(min);
  const slope = (scale.getPixelForValue(max) - start) / (max - min || 1);
  return (value) => start + (value - min) * slope;
}
