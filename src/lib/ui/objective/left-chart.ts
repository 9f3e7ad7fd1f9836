import type { ChartConfiguration } from 'chart.js';
import type { Instant, Range } from '$lib/core/time';
import type { Course } from '../chart/course';

/** What the chart of an error budget shows: how much was left over its period. */
export interface LeftPicture {
  readonly span: Range;
  readonly at: readonly Instant[];
  /** Shares, 1 for all of it; NaN where nothing was counted. */
  readonly values: readonly number[];
  readonly day: (at: Instant) => string;
}

type Line = ChartConfiguration<'course', { x: number; y: number }[]>;

/** The chart of an error budget, drawn in the colours of the theme. */
export function leftChart({ span, at, values, day }: LeftPicture, colour: (name: string) => string): Line {
  const there = [...values.keys()].filter((index) => !Number.isNaN(values[index] as number));
  const least = Math.min(0, ...there.map((index) => (values[index] as number) * 100));
  const course = (points: readonly (readonly [at: number, value: number])[], more: Partial<Course>): Course => ({
    at: Float64Array.from(points, ([moment]) => moment),
    values: Float64Array.from(points, ([, value]) => value),
    cells: points.map((_, index) => index),
    ...{ complete: points.length, colour: '', width: 1.5, dash: [], fill: null, floor: null },
    ...more
  });
  const ends = [span.from, span.to] as const;
  const courses = [
    course(
      ends.map((moment) => [moment, 0] as const),
      { colour: colour('--major'), width: 1, dash: [6, 3] }
    ),
    course(
      there.map((index) => [at[index] as number, (values[index] as number) * 100] as const),
      { colour: colour('--hue-1'), width: 2 }
    )
  ];
  return {
    type: 'course',
    data: { datasets: [{ data: [], courses, extremes: { least, most: 100, leastAboveZero: 1 } }] },
    options: {
      ...{ responsive: true, maintainAspectRatio: false, animation: false, events: [] },
      layout: { padding: { top: 6 } },
      scales: {
        x: {
          ...{ type: 'linear', min: span.from, max: span.to },
          grid: { display: false },
          border: { color: colour('--line-strong') },
          ticks: {
            ...{ color: colour('--quiet'), maxTicksLimit: 7, maxRotation: 0 },
            callback: (value) => day(Number(value) as Instant)
          }
        },
        y: {
          ...{ type: 'linear', min: Math.max(-200, Math.floor(least / 25) * 25), max: 100 },
          grid: { color: colour('--line') },
          border: { display: false },
          ticks: { color: colour('--quiet'), maxTicksLimit: 5, callback: (value) => `${value} %` }
        }
      }
    }
  };
}
