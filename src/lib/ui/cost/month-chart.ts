import { Filler, LineController, LineElement, PointElement, type ChartConfiguration, type Plugin } from 'chart.js';
import type { MonthForecast } from '$lib/core/cost';
import { Chart } from '../chart/registered';

Chart.register(Filler, LineController, LineElement, PointElement);

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
type Line = ChartConfiguration<'line', { x: number; y: number }[]>;

const points = (values: readonly number[]) => values.map((y, index) => ({ x: index + 1, y }));

/** The chart of a month, drawn in the colours of the theme. */
export function monthChart(
  { month, days, soFar, earlier, forecast, budgets, marks }: MonthPicture,
  amountWords: (amount: number) => string,
  colour: Colour
): Line {
  const line = (data: { x: number; y: number }[], name: string, more: object = {}) => ({
    ...{ data, borderColor: colour(name), borderWidth: 1.5, pointRadius: 0, ...more }
  });
  const last = { x: soFar.length, y: soFar.at(-1) ?? 0 };
  const end = (y: number) => [last, { x: days, y }];
  const isGoingOn = forecast !== null && soFar.length > 0 && soFar.length < days;
  const most = Math.max(
    ...[last.y, earlier.at(-1) ?? 0, forecast?.high ?? 0, ...budgets.map(({ amount }) => amount), 1]
  );
  return {
    type: 'line',
    data: {
      datasets: [
        line([{ x: 0, y: 0 }, ...points(earlier)], '--quiet', { borderWidth: 1 }),
        line([{ x: 0, y: 0 }, ...points(soFar)], '--hue-1', { borderWidth: 2 }),
        ...(isGoingOn
          ? [
              line(end(forecast.low), '--hue-1', { borderWidth: 0 }),
              line(end(forecast.high), '--hue-1', {
                borderWidth: 0,
                fill: '-1',
                backgroundColor: `${colour('--hue-1')}33`
              }),
              line(end(forecast.expected), '--hue-1', { borderDash: [5, 4] })
            ]
          : []),
        ...budgets.map(({ amount }) =>
          line(
            [
              { x: 0, y: amount },
              { x: days, y: amount }
            ],
            '--major',
            { borderWidth: 1, borderDash: [6, 3] }
          )
        )
      ]
    },
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
          ...{ type: 'linear', min: 0, suggestedMax: most * 1.08 },
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
function notes(budgets: MonthPicture['budgets'], marks: MonthPicture['marks'], colour: Colour): Plugin<'line'> {
  return {
    id: 'notes',
    afterDatasetsDraw({ ctx, chartArea: { left, top, bottom, right }, scales }: Chart<'line'>) {
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
