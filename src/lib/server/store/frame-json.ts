import type { Frame } from '$lib/core/series';
import type { Instant } from '$lib/core/time';

/** Who a series is, as readers of a frame need it. */
export interface FrameSeries {
  readonly id: number;
  readonly account: string;
  readonly region: string;
  readonly resource: string;
  readonly resourceId: number;
}

/**
 * A frame as JSON: `{ now, start, step, count, series: [{ …who, newest, values: [number | null] }] }`, times in milliseconds, a gap is null.
 *
 * @example frameJson(frame, series, now)
 */
export function frameJson({ grid, columns }: Frame, series: readonly FrameSeries[], now: Instant): string {
  return JSON.stringify({
    now,
    ...grid,
    series: columns.map(({ values, newest }, index) => ({
      ...series[index],
      newest,
      values: Array.from(values, (value) => (Number.isNaN(value) ? null : value))
    }))
  });
}
