import { valuesOf, type QueryAnswer } from '$lib/core/series';
import type { Instant, Range } from '$lib/core/time';
import { hueOf, type Picture } from '../chart/picture';

/**
 * An answer as a chart draws it.
 *
 * @param samplingMs of the metric: a cell is still filling while its end lies behind the newest sample's end
 */
export function pictureOf(answer: QueryAnswer, range: Range, unit: string, samplingMs: number): Picture {
  const newest = Math.max(0, ...answer.series.map((series) => series.newest ?? 0));
  return {
    start: answer.start,
    step: answer.step,
    range,
    unit,
    fillingFrom: (newest + samplingMs) as Instant,
    lines: answer.series.map((series) => ({
      id: series.id,
      name: series.resource,
      values: valuesOf(series),
      ...hueOf(series.resourceId)
    }))
  };
}
