import type { ChartConfiguration } from 'chart.js';
import type { Instant } from '$lib/core/time';
import type { Course } from '../chart/course';

/** What the chart of growth shows: the days that are over, and those ahead with their interval. */
export interface GrowthPicture {
  readonly starts: readonly Instant[];
  readonly values: readonly (number | null)[];
  readonly ahead: readonly Instant[];
  readonly expected: ArrayLike<number>;
  readonly low: ArrayLike<number>;
  readonly high: ArrayLike<number>;
  /** A line across; null for none. */
  readonly limit: number | null;
  readonly dayWords: (at: Instant) => string;
  readonly valueWords: (value: number) => string;
}

type Line = ChartConfiguration<'course', { x: number; y: number }[]>;

/** The chart of growth, drawn in the colours of the theme. */
export function growthChart(picture: GrowthPicture, colour: (name: string) => string): Line {
  const { starts, values, ahead, expected, low, high, limit, dayWords, valueWords } = picture;
  const course = (points: readonly (readonly [at: number, value: number])[], more: Partial<Course>): Course => ({
    at: Float64Array.from(points, ([moment]) => moment),
    values: Float64Array.from(points, ([, value]) => value),
    cells: points.map((_, index) => index),
    ...{ complete: points.length, colour: '', width: 1.5, dash: [], fill: null, floor: null },
    ...more
  });
  const past = starts.flatMap((at, index) => {
    const value = values[index];
    return value === null || value === undefined ? [] : [[at, value] as const];
  });
  const last = past.at(-1);
  const on = (ends: ArrayLike<number>) => [
    ...(last === undefined ? [] : [last]),
    ...ahead.map((at, index) => [at, ends[index] as number] as const)
  ];
  const own = colour('--hue-1');
  // From where something is stored.
  const from = past[0]?.[0] ?? starts[0] ?? 0;
  const to = ahead.at(-1) ?? starts.at(-1) ?? 1;
  const all = [
    ...past.map(([, value]) => value),
    ...Array.from(low),
    ...Array.from(high),
    ...(limit === null ? [] : [limit])
  ];
  const [least, most] = [Math.min(...all), Math.max(...all)];
  const courses = [
    course(past, { colour: own, width: 2 }),
    ...(expected.length === 0
      ? []
      : [
          course(on(high), {
            ...{ colour: 'transparent', fill: `${own}33` },
            floor: Float64Array.from(on(low), ([, value]) => value)
          }),
          course(on(expected), { colour: own, dash: [5, 4] })
        ]),
    ...(limit === null
      ? []
      : [
          course(
            [
              [from, limit],
              [to, limit]
            ],
            { colour: colour('--major'), width: 1, dash: [6, 3] }
          )
        ])
  ];
  return {
    type: 'course',
    data: { datasets: [{ data: [], courses, extremes: { least, most, leastAboveZero: most } }] },
    options: {
      ...{ responsive: true, maintainAspectRatio: false, animation: false, events: [] },
      layout: { padding: { top: 8 } },
      scales: {
        x: {
          ...{ type: 'linear', min: from, max: to },
          grid: { display: false },
          border: { color: colour('--line-strong') },
          ticks: {
            ...{ color: colour('--quiet'), maxTicksLimit: 8, maxRotation: 0 },
            callback: (value) => dayWords(Number(value) as Instant)
          }
        },
        y: {
          ...{ type: 'linear', suggestedMin: Math.min(0, least), suggestedMax: most },
          grid: { color: colour('--line') },
          border: { display: false },
          ticks: { color: colour('--quiet'), maxTicksLimit: 6, callback: (value) => valueWords(Number(value)) }
        }
      }
    }
  };
}
