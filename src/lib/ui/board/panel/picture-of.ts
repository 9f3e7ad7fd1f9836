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
 * A look for each series: the hue of its resource, or of itself where a resource has several here. Of two of one hue, the later one takes a hue that nobody has; only when all hues are used are
 * lines dashed, each hue once more, and only then do two look alike.
 */
export function huesOf(series: readonly AnswerSeries[]): { hue: number; dashed: boolean }[] {
  const several = new Set(
    series.map(({ resourceId }) => resourceId).filter((id, index, all) => all.indexOf(id) !== index)
  );
  const isOfResource = ({ resourceId }: AnswerSeries) => resourceId > 0 && !several.has(resourceId);
  const wanted = series.map((one) => (hues - 1 + (isOfResource(one) ? one.resourceId : Math.abs(one.id))) % hues);
  const looks = new Array<number | undefined>(series.length);
  const used = new Set<number>();
  const take = (index: number, look: number): void => {
    looks[index] = look;
    used.add(look);
  };
  // Resources keep their own hue before what has none of its own, such as an outcome.
  for (const own of [true, false])
    for (const [index, one] of series.entries()) {
      const hue = wanted[index] as number;
      if (isOfResource(one) === own && !used.has(hue)) take(index, hue);
    }
  for (const index of series.keys()) {
    if (looks[index] !== undefined) continue;
    const hue = wanted[index] as number;
    const solid = Array.from({ length: hues }, (_, look) => look).find((look) => !used.has(look));
    const dashed = [hue, ...Array.from({ length: hues }, (_, look) => look)]
      .map((look) => hues + look)
      .find((look) => !used.has(look));
    take(index, solid ?? dashed ?? hue);
  }
  return looks.map((look) => hueOf((look ?? 0) + 1));
}
