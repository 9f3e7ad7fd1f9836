import { createCanvas } from '@napi-rs/canvas';
import { BarController, BarElement, CategoryScale, Chart, LinearScale, type ChartConfiguration } from 'chart.js';
import { severities } from '$lib/core/alarm';
import { aboutMoney, dayWords } from '$lib/core/cost';
import type { Summary } from '$lib/core/summary';
import { paintGround, paper, scale, severityColour } from '../../notify/pictures/paper';

Chart.register(BarController, BarElement, CategoryScale, LinearScale);

const [width, height] = [560, 170];

interface DayBars {
  readonly dates: readonly string[];
  readonly stacks: readonly { readonly colour: string; readonly values: readonly (number | null)[] }[];
  readonly text: (value: number) => string;
}

/** Bars of days, of 1120 by 340 pixels. */
function drawBars({ dates, stacks, text }: DayBars): Buffer {
  const canvas = createCanvas(width, height);
  const configuration: ChartConfiguration<'bar', (number | null)[]> = {
    type: 'bar',
    data: {
      labels: dates.map(dayWords),
      datasets: stacks.map(({ colour, values }) => ({ data: [...values], backgroundColor: colour, stack: 'all' }))
    },
    options: {
      ...{ responsive: false, animation: false, devicePixelRatio: scale },
      layout: { padding: { top: 12, right: 12, bottom: 4, left: 4 } },
      scales: {
        x: {
          ...{ stacked: true, grid: { display: false }, border: { color: paper.line } },
          ticks: { color: paper.quiet, maxRotation: 0, autoSkip: true, maxTicksLimit: 8 }
        },
        y: {
          ...{ stacked: true, beginAtZero: true, grid: { color: paper.line }, border: { display: false } },
          ticks: {
            ...{ color: paper.quiet, maxTicksLimit: 5, precision: 0 },
            callback: (value) => text(Number(value))
          }
        }
      }
    },
    plugins: [{ id: 'chart paper', beforeDraw: paintGround }]
  };
  const chart = new Chart(canvas as never, configuration);
  const png = canvas.toBuffer('image/png');
  chart.destroy();
  return png;
}

/** The pictures of a summary as PNGs; null for what it says nothing of. */
export interface SummaryPictures {
  readonly incidents: Buffer | null;
  readonly cost: Buffer | null;
}

/**
 * Draws the incidents of each day by how grave they became, and what each day cost.
 *
 * @example drawDays(summary).incidents?.subarray(1, 4).toString() // 'PNG'
 */
export function drawDays({ incidents, cost }: Summary): SummaryPictures {
  const isBilled = cost !== null && cost.days.some(({ amount }) => amount !== null);
  return {
    incidents:
      incidents.total === 0
        ? null
        : drawBars({
            dates: incidents.days.map(({ date }) => date),
            stacks: severities.map((severity, index) => ({
              colour: severityColour[severity],
              values: incidents.days.map(({ counts }) => counts[index] ?? 0)
            })),
            text: (value) => (Number.isInteger(value) ? String(value) : '')
          }),
    cost: isBilled
      ? drawBars({
          dates: cost.days.map(({ date }) => date),
          stacks: [
            {
              colour: paper.series,
              values: cost.days.map(({ amount }) => (amount === null ? null : amount / 1_000_000))
            }
          ],
          text: (value) => aboutMoney(value, cost.currency)
        })
      : null
  };
}

/** What the pictures show, for whoever does not see them. */
export const pictureWords = {
  incidents: 'Incidents of each day, by how grave they became',
  cost: 'What each day cost'
} as const;
