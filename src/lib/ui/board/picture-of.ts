import { valuesOf, type AnswerSeries, type QueryAnswer } from '$lib/core/series';
import type { Instant, Range } from '$lib/core/time';
import { hueOf, type Picture } from '../chart/picture';

/**
 * An answer as a chart draws it.
 *
 * @param samplingMs of the metric: a cell is still filling while its end lies behind the newest sample's end
 */
export function pictureOf(answer: QueryAnswer, range: Range, samplingMs: number): Picture {
  const newest = Math.max(0, ...answer.series.map((series) => series.newest ?? 0));
  return {
    start: answer.start,
    step: answer.step,
    range,
    unit: answer.rows[0]?.unit ?? '1',
    fillingFrom: (newest + samplingMs) as Instant,
    lines: answer.series.map((series) => ({
      id: series.id,
      name: series.name,
      values: valuesOf(series),
      ...hueOf(series.resourceId > 0 && !severalOf(answer, series) ? series.resourceId : Math.abs(series.id))
    }))
  };
}

/** Whether a resource has several series here, which need hues of their own. */
const severalOf = ({ series }: QueryAnswer, { resourceId }: AnswerSeries): boolean =>
  series.filter((one) => one.resourceId === resourceId).length > 1;
