import {
  CategoryScale,
  Chart,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  TimeScale,
  type ChartConfiguration,
  type Plugin
} from 'chart.js';
import annotation from 'chartjs-plugin-annotation';
import 'chartjs-adapter-luxon';
import { severityBalls } from '$lib/core/alarm';
import { drawnCells } from '$lib/core/series';
import type { Instant } from '$lib/core/time';
import { axisEnds, digits, displayScale, unit } from '$lib/core/units';
import { startOfCell, type Limit, type Picture, type RaisedTicks } from './picture';
import { themeColour } from './theme.svelte';

Chart.register(CategoryScale, Filler, LinearScale, LineController, LineElement, PointElement, TimeScale, annotation);
Chart.defaults.font.family = "'JetBrains Mono Variable', monospace";
Chart.defaults.font.size = 10.5;

/** What is drawn over the lines, read afresh at every drawing. */
export interface Overlay {
  readonly hover: Instant | null;
  /** A span being chosen by dragging, in pixels. */
  readonly selection: { readonly from: number; readonly to: number } | null;
  readonly raised: readonly RaisedTicks[];
}

/** Draws the raised periods on the axis, the instant under the pointer and the span being chosen. */
export function overlayPlugin(read: () => Overlay): Plugin<'line'> {
  return {
    id: 'overlay',
    afterDatasetsDraw({ ctx, chartArea: { left, right, top, bottom }, scales }) {
      const { hover, selection, raised } = read();
      const x = scales['x'];
      if (!x) return;
      ctx.save();
      for (const { from, to, severity } of raised) {
        const begin = Math.max(left, x.getPixelForValue(from));
        const end = Math.min(right, to === null ? right : x.getPixelForValue(to));
        if (end < left || begin > right) continue;
        ctx.fillStyle = themeColour(`--${severity}`);
        for (let ball = 0; ball < severityBalls(severity); ball++)
          ctx.fillRect(begin, bottom - 3 - ball * 4, Math.max(3, end - begin), 3);
      }
      if (hover !== null) {
        const at = x.getPixelForValue(hover);
        if (at >= left && at <= right) {
          ctx.fillStyle = themeColour('--quiet');
          ctx.fillRect(Math.round(at), top, 1, bottom - top);
        }
      }
      if (selection !== null) {
        ctx.fillStyle = themeColour('--note');
        ctx.globalAlpha = 0.16;
        ctx.fillRect(
          Math.min(selection.from, selection.to),
          top,
          Math.abs(selection.to - selection.from),
          bottom - top
        );
      }
      ctx.restore();
    }
  };
}

/**
 * The configuration of a line chart.
 *
 * @param zone an IANA zone for the axis
 * @param columns device pixels over which the lines are drawn: of more cells than that, those are drawn that give the same line
 */
export function lineConfiguration(
  picture: Picture,
  limits: readonly Limit[],
  zone: string,
  columns: number
): ChartConfiguration<'line', { x: number; y: number }[]> {
  const { unit: code, lines, fillingFrom, range } = picture;
  const bounds = unit(code).bounds;
  const scale = displayScale(
    code,
    bounds ?? [...lines.flatMap(({ values }) => [largestOf(values)]), ...limits.map(({ value }) => value)]
  );
  const ends = bounds && axisEnds(bounds, ...extremesOf(lines, limits));
  const quiet = themeColour('--quiet');
  return {
    type: 'line',
    data: {
      datasets: lines.map(({ values, hue, dashed }) => {
        const colour = themeColour(`--hue-${hue}`);
        const cells = drawnCells(values, columns);
        return {
          // In the unit of the axis, so that its ticks are round there.
          data: Array.from(cells, (cell) => ({
            x: startOfCell(picture, cell),
            y: (values[cell] as number) / scale.divisor
          })),
          borderColor: colour,
          borderWidth: 1.5,
          borderDash: dashed ? [5, 3] : [],
          pointRadius: ({ dataIndex }) => (isLonely(values, cells[dataIndex] ?? 0) ? 1.5 : 0),
          pointBackgroundColor: colour,
          pointBorderWidth: 0,
          segment: {
            borderColor: ({ p1DataIndex }) =>
              startOfCell(picture, (cells[p1DataIndex] ?? 0) + 1) > fillingFrom ? `${colour}66` : undefined
          }
        };
      })
    },
    options: {
      animation: false,
      parsing: false,
      normalized: true,
      spanGaps: false,
      maintainAspectRatio: false,
      events: [],
      layout: { padding: { top: 4, right: 2 } },
      scales: {
        x: {
          type: 'time',
          min: range.from,
          max: range.to,
          adapters: { date: { zone } },
          time: { displayFormats: { second: 'HH:mm:ss', minute: 'HH:mm', hour: 'HH:mm', day: 'ccc d' } },
          grid: { display: false },
          border: { color: themeColour('--line-strong') },
          ticks: { color: quiet, maxRotation: 0, autoSkipPadding: 36, major: { enabled: true } }
        },
        y: {
          min: ends?.[0],
          max: ends?.[1],
          beginAtZero: ends === undefined || ends[0] === 0,
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
              yAdjust: -8,
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

/** A value between two gaps has no line to lie on: it is drawn as a point. */
const isLonely = (values: Float64Array, i: number): boolean =>
  Number.isNaN(values[i - 1] ?? NaN) && Number.isNaN(values[i + 1] ?? NaN);

/** The smallest and the largest of what a chart draws. */
function extremesOf(lines: Picture['lines'], limits: readonly Limit[]): [number, number] {
  const values = limits.map(({ value }) => value);
  return [
    Math.min(...values, ...lines.map(({ values: of }) => smallestOf(of))),
    Math.max(...values, ...lines.map(({ values: of }) => largestOf(of)))
  ];
}

function smallestOf(values: Float64Array): number {
  let smallest = Infinity;
  for (const value of values) if (value < smallest) smallest = value;
  return smallest;
}

function largestOf(values: Float64Array): number {
  let largest = 0;
  for (const value of values) if (Math.abs(value) > largest) largest = Math.abs(value);
  return largest;
}

export { Chart };
