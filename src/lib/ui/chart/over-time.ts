import type { ChartConfiguration, ChartDataset } from 'chart.js';
import { drawnCells } from '$lib/core/series';
import { axisEnds, digits, displayScale, unit } from '$lib/core/units';
import { startOfCell, type Limit, type Line, type Picture } from './picture';
import { themeColour } from './theme.svelte';

type Point = { x: number; y: number };
export type TimeChartType = 'line' | 'bar';

/**
 * The configuration of a chart over time: lines, areas, stacked areas or bars.
 *
 * @param zone an IANA zone for the axis
 * @param columns device pixels over which lines are drawn: of more cells than that, those are drawn that give the same line
 */
export function overTimeConfiguration(
  picture: Picture,
  limits: readonly Limit[],
  zone: string,
  columns: number
): ChartConfiguration<TimeChartType, Point[]> {
  const { unit: code, lines, range, drawing = 'lines', axis = {}, earlier } = picture;
  const isStacked = drawing === 'stacked' || drawing === 'bars';
  const bounds = isStacked ? undefined : unit(code).bounds;
  const drawn = [...lines, ...(earlier?.lines ?? [])];
  const extremes = isStacked ? stackedExtremes(lines, limits) : extremesOf(drawn, limits);
  const scale = displayScale(code, bounds ?? extremes.map(Math.abs));
  const natural = bounds && axisEnds(bounds, ...extremes);
  const [from, to] = [axis.from ?? natural?.[0], axis.to ?? natural?.[1]];
  const quiet = themeColour('--quiet');
  const shown = { columns, divisor: scale.divisor, drawing };
  return {
    type: drawing === 'bars' ? 'bar' : 'line',
    data: {
      datasets: [
        ...(earlier ? earlier.lines.flatMap((line) => datasetsOf(line, earlier, { ...shown, earlier: true })) : []),
        ...lines.flatMap((line, index) => datasetsOf(line, picture, { ...shown, first: index === 0 }))
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
          type: 'time',
          stacked: isStacked,
          offset: false,
          min: range.from,
          max: range.to,
          adapters: { date: { zone } },
          time: { displayFormats: { second: 'HH:mm:ss', minute: 'HH:mm', hour: 'HH:mm', day: 'ccc d' } },
          grid: { display: false },
          border: { color: themeColour('--line-strong') },
          ticks: { color: quiet, maxRotation: 0, autoSkipPadding: 36, major: { enabled: true } }
        },
        y: {
          type: axis.log ? 'logarithmic' : 'linear',
          stacked: isStacked,
          min: from === undefined ? undefined : from / scale.divisor,
          max: to === undefined ? undefined : to / scale.divisor,
          ...(axis.log ? {} : { beginAtZero: from === undefined || from === 0 }),
          suggestedMax:
            limits.length > 0 ? (Math.max(...limits.map(({ value }) => value)) * 1.1) / scale.divisor : undefined,
          border: { display: false, dash: [2, 3] },
          grid: { color: themeColour('--line') },
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
            borderColor: themeColour(`--${severity}`),
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
              color: themeColour(`--${severity}`),
              font: { size: 10.5, weight: 'normal' as const }
            }
          }))
        }
      }
    }
  };
}

interface Manner {
  readonly columns: number;
  readonly divisor: number;
  readonly drawing: NonNullable<Picture['drawing']>;
  /** Whether it is the lowest of a stack. */
  readonly first?: boolean;
  /** Whether it is what was there earlier, drawn thin and dotted. */
  readonly earlier?: boolean;
}

type GridOfPicture = Pick<Picture, 'start' | 'step' | 'count' | 'calendar'> & { readonly shift?: number };

function datasetsOf(
  { values, hue, dashed }: Line,
  grid: GridOfPicture,
  { columns, divisor, drawing, first = false, earlier = false }: Manner
): ChartDataset<TimeChartType, Point[]>[] {
  const colour = themeColour(`--hue-${hue}`);
  // Stacked ones meet in every cell; only lines that stand alone may leave cells out.
  const isStacked = drawing === 'stacked' || drawing === 'bars';
  const cells = isStacked ? values.keys() : drawnCells(values, columns);
  const shift = grid.shift ?? 0;
  // In the unit of the axis, so that its ticks are round there.
  const point = (cell: number): Point => ({
    x: startOfCell(grid, cell) + shift,
    y: (values[cell] as number) / divisor
  });
  if (drawing === 'bars' && !earlier)
    return [
      {
        type: 'bar',
        data: Array.from(cells, point),
        backgroundColor: dashed ? `${colour}99` : colour,
        barPercentage: 1,
        categoryPercentage: 0.9,
        barThickness: 'flex'
      }
    ];
  const line: ChartDataset<'line', Point[]> = {
    type: 'line',
    data: Array.from(cells, point),
    borderColor: earlier ? `${colour}b0` : colour,
    borderWidth: earlier ? 1 : 1.5,
    borderDash: earlier ? [1, 3] : dashed ? [5, 3] : [],
    pointRadius: 0,
    spanGaps: false,
    ...(drawing === 'areas' && !earlier ? { fill: 'origin', backgroundColor: `${colour}30` } : {}),
    ...(drawing === 'stacked' && !earlier
      ? { fill: first ? 'origin' : '-1', backgroundColor: `${colour}70`, borderWidth: 1 }
      : {})
  };
  const lonely = isStacked || earlier ? [] : lonelyCells(values);
  if (lonely.length === 0) return [line];
  return [
    line,
    {
      type: 'line',
      data: lonely.map(point),
      showLine: false,
      pointRadius: 1.5,
      pointBackgroundColor: colour,
      pointBorderWidth: 0
    }
  ];
}

/** Values between two gaps: they have no line to lie on and are drawn as points. */
function lonelyCells(values: Float64Array): number[] {
  const found: number[] = [];
  for (let i = 0; i < values.length; i++)
    if (!Number.isNaN(values[i]) && Number.isNaN(values[i - 1] ?? NaN) && Number.isNaN(values[i + 1] ?? NaN))
      found.push(i);
  return found;
}

/** The smallest and the largest of what a chart draws. */
function extremesOf(lines: readonly Line[], limits: readonly Limit[]): [number, number] {
  const values = limits.map(({ value }) => value);
  let [least, most] = [Math.min(Infinity, ...values), Math.max(-Infinity, ...values)];
  for (const { values: of } of lines)
    for (const value of of) {
      if (value < least) least = value;
      if (value > most) most = value;
    }
  return [least, most];
}

/** Zero, and the highest sum of a cell. */
function stackedExtremes(lines: readonly Line[], limits: readonly Limit[]): [number, number] {
  const sums = new Float64Array(lines[0]?.values.length ?? 0);
  for (const { values } of lines)
    for (const [cell, value] of values.entries()) if (!Number.isNaN(value)) sums[cell] = (sums[cell] ?? 0) + value;
  return [
    0,
    Math.max(
      extremesOf([], limits)[1],
      sums.reduce((most, sum) => Math.max(most, sum), 0)
    )
  ];
}
