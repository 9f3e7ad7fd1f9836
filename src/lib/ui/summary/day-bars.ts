import type { ChartConfiguration } from 'chart.js';
import { dayWords } from '$lib/core/cost';

/** Bars of days, one above the other where there are several for a day. */
export interface DayBars {
  readonly dates: readonly string[];
  readonly stacks: readonly {
    readonly name: string;
    /** A colour of the theme. */
    readonly colour: string;
    readonly values: readonly (number | null)[];
  }[];
}

/** The chart of {@link DayBars}, in the colours of the theme. @example dayBars(bars, String, themeColour).data.labels // ['27 Apr', …] */
export function dayBars(
  { dates, stacks }: DayBars,
  valueWords: (value: number) => string,
  colour: (name: string) => string
): ChartConfiguration<'bar', (number | null)[]> {
  return {
    type: 'bar',
    data: {
      labels: dates.map(dayWords),
      datasets: stacks.map((one) => ({
        ...{ label: one.name, data: [...one.values], backgroundColor: colour(one.colour), stack: 'all' },
        maxBarThickness: 44
      }))
    },
    options: {
      ...{ responsive: true, maintainAspectRatio: false, animation: false, events: [] },
      scales: {
        x: {
          ...{ stacked: true, grid: { display: false }, border: { color: colour('--line-strong') } },
          ticks: { color: colour('--quiet'), maxRotation: 0, autoSkip: true, maxTicksLimit: 8 }
        },
        y: {
          ...{ stacked: true, beginAtZero: true, grid: { color: colour('--line') }, border: { display: false } },
          ticks: {
            ...{ color: colour('--quiet'), maxTicksLimit: 5 },
            callback: (value) => valueWords(Number(value))
          }
        }
      }
    }
  };
}
