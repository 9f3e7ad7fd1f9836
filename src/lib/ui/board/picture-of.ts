import { valuesOf, type AnswerSeries, type QueryAnswer } from '$lib/core/series';
import type { Range } from '$lib/core/time';
import { hueOf, hues, type Picture } from '../chart/picture';

/**
 * An answer as a chart draws it.
 *
 * @param digits after the point, when the signal says how many
 */
export function pictureOf(answer: QueryAnswer, range: Range, digits?: number): Picture {
  const drawn = huesOf(answer.series);
  return {
    start: answer.start,
    step: answer.step,
    count: answer.count,
    calendar: answer.calendar,
    range,
    unit: answer.rows[0]?.unit ?? '1',
    digits,
    lines: answer.series.map((series, index) => ({
      id: series.id,
      name: series.name,
      values: valuesOf(series),
      complete: series.complete,
      ...(drawn[index] ?? hueOf(1))
    }))
  };
}

/**
 * A hue for each series: that of its resource, or of itself where a resource has several here. Of two that would look alike, the later one takes a hue that
 * nobody has here, as long as there is one.
 */
function huesOf(series: readonly AnswerSeries[]): { hue: number; dashed: boolean }[] {
  const several = new Set(
    series.map(({ resourceId }) => resourceId).filter((id, index, all) => all.indexOf(id) !== index)
  );
  const looks = 2 * hues;
  const places = series.map(
    ({ id, resourceId }) =>
      (looks - 1 + (resourceId > 0 && !several.has(resourceId) ? resourceId : Math.abs(id))) % looks
  );
  const taken = new Set(places);
  const free = Array.from({ length: looks }, (_, place) => place).filter((place) => !taken.has(place));
  return places.map((place, index) => hueOf((places.indexOf(place) < index ? (free.shift() ?? place) : place) + 1));
}
