import { valuesOf, type AnswerSeries, type QueryAnswer } from '$lib/core/series';
import type { Range } from '$lib/core/time';
import { hueOf, hues, type Picture } from '../../chart/picture';

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
 * nobody has here, as long as there is one; so does one that is of no resource of its own, such as an outcome, and would share its hue.
 */
export function huesOf(series: readonly AnswerSeries[]): { hue: number; dashed: boolean }[] {
  const several = new Set(
    series.map(({ resourceId }) => resourceId).filter((id, index, all) => all.indexOf(id) !== index)
  );
  const looks = 2 * hues;
  const isOfResource = ({ resourceId }: AnswerSeries) => resourceId > 0 && !several.has(resourceId);
  const places = series.map((one) => (looks - 1 + (isOfResource(one) ? one.resourceId : Math.abs(one.id))) % looks);
  const used = new Set(places);
  const usedHues = new Set<number>();
  return series.map((one, index) => {
    const place = places[index] as number;
    const isClash =
      places.indexOf(place) < index || (!isOfResource(one) && usedHues.has(place % hues) && usedHues.size < hues);
    const free = isClash ? freePlace(used, usedHues) : null;
    const taken = free ?? place;
    used.add(taken);
    usedHues.add(taken % hues);
    return hueOf(taken + 1);
  });
}

/** A look that nobody has, of a hue that nobody has where there is one; null when all are taken. */
function freePlace(used: ReadonlySet<number>, usedHues: ReadonlySet<number>): number | null {
  const free = Array.from({ length: 2 * hues }, (_, place) => place).filter((place) => !used.has(place));
  return free.find((place) => !usedHues.has(place % hues)) ?? free[0] ?? null;
}
