import type { ChartConfiguration, Plugin } from 'chart.js';
import type { MonthForecast } from '$lib/core/cost';
import type { Course } from '../chart/course';
import type { Chart } from '../chart/registered';

/** What the chart of a month shows: costs added up by day, and how they are expected to go on. */
export interface MonthPicture {
  /** Such as `Nov`. */
  readonly month: string;
  readonly days: number;
  /** Added up by the end of each day that is billed, in the currency. */
  readonly soFar: readonly number[];
  readonly earlier: readonly number[];
  readonly forecast: MonthForecast | null;
  readonly budgets: readonly { readonly words: string; readonly amount: number }[];
  /** Marks by the day of the month, from 0. */
  readonly marks: readonly { readonly day: number; readonly text: string }[];
}

type Colour = (name: string) => string;
type Line = ChartConfiguration<'course', { x: number; y: number }[]>;

/** One line over the days of the month, by what was reached at the end of each. */
const course = (points: readonly (readonly [day: number, amount: number])[], more: Partial<Course>): Course => ({
  at: Float64Array.from(points, ([day]) => day),
  values: Float64Array.from(points, ([, amount]) => amount),
  cells: points.map((_, index) => index),
  ...{ complete: points.length, colour: '', width: 1.5, dash: [], fill: null, floor: null },
  ...more
});
const fromStart = (amounts: readonly number[]) => [
  [0, 0] as const,
  ...amounts.map((amount, index) => [index + 1, amount] as const)
];

/** The chart of a month, drawn in the colours of the theme. */
export function monthChart(
  { month, days, soFar, earlier, forecast, budgets, marks }: MonthPicture,
  amountWords: (amount: number) => string,
  colour: Colour
): Line {
  const now = [soFar.length, soFar.at(-1) ?? 0] as const;
  const isGoingOn = forecast !== null && soFar.length > 0 && soFar.length < days;
  const amounts = [now[1], earlier.at(-1) ?? 0, forecast?.high ?? 0, ...budgets.map(({ amount }) => amount), 1];
  const most = Math.max(...amounts) * 1.08;
  const [own, other] = [colour('--hue-1'), colour('--quiet')];
  const courses = [
    course(fromStart(soFar), { colour: own, width: 2 }),
    course(fromStart(earlier), { colour: other, width: 1 }),
    ...(isGoingOn
      ? [
          course([now, [days, forecast.expected]], { colour: own, dash: [5, 4] }),
          course([now, [days, forecast.high]], {
            ...{ colour: 'transparent', fill: `${own}33` },
            floor: Float64Array.of(now[1], forecast.low)
          })
        ]
      : []),
    ...budgets.map(({ amount }) =>
      course(
        [
          [0, amount],
          [days, amount]
        ],
        { colour: colour('--major'), width: 1, dash: [6, 3] }
      )
    )
  ];
  return {
    type: 'course',
    data: { datasets: [{ data: [], courses, extremes: { least: 0, most, leastAboveZero: most } }] },
    options: {
      ...{ responsive: true, maintainAspectRatio: false, animation: false, events: [] },
      layout: { padding: { top: 12 } },
      scales: {
        x: {
          ...{ type: 'linear', min: 0, max: days },
          grid: { display: false },
          border: { color: colour('--line-strong') },
          ticks: {
            ...{ color: colour('--quiet'), stepSize: 7, maxRotation: 0 },
            callback: (value) => (Number(value) < days ? `${Number(value) + 1} ${month}` : '')
          }
        },
        y: {
          ...{ type: 'linear', min: 0, suggestedMax: most },
          grid: { color: colour('--line') },
          border: { display: false },
          ticks: { color: colour('--quiet'), maxTicksLimit: 5, callback: (value) => amountWords(Number(value)) }
        }
      }
    },
    plugins: [notes(budgets, marks, colour)]
  };
}

/** Names of the budgets on their lines, and flags of the marks. */
function notes(budgets: MonthPicture['budgets'], marks: MonthPicture['marks'], colour: Colour): Plugin<'course'> {
  return {
    id: 'notes',
    afterDatasetsDraw({ ctx, chartArea: { left, top, bottom, right }, scales }: Chart<'course'>) {
      const { x, y } = scales;
      if (!x || !y) return;
      ctx.save();
      ctx.font = "10.5px 'JetBrains Mono Variable', monospace";
      ctx.fillStyle = colour('--major');
      for (const { words, amount } of budgets) ctx.fillText(words, left + 6, y.getPixelForValue(amount) - 4);
      ctx.fillStyle = colour('--note');
      for (const { day, text } of marks) {
        const pole = Math.round(x.getPixelForValue(day));
        ctx.fillRect(pole, top - 8, 1, bottom - top + 8);
        ctx.beginPath();
        ctx.moveTo(pole + 1, top - 8);
        ctx.lineTo(pole + 8, top - 4);
        ctx.lineTo(pole + 1, top);
        ctx.fill();
        const fitting = Math.floor((right - pole - 14) / 6.4);
        if (fitting >= 4) ctx.fillText(text.slice(0, fitting), pole + 11, top);
      }
      ctx.restore();
    }
  };
}
