import type { Labels } from '../signal';
import { cellCode } from './condition';

/** What the cells of one series of a part say, as `cellCode`s on the grid of the combined alarm. */
export interface PartSeries {
  readonly labels: Labels;
  readonly codes: ArrayLike<number>;
}

/** One series of a combined alarm: for each cell, how many parts hold for certain, and how many may. */
export interface CombinedSeries {
  readonly labels: Labels;
  readonly hold: Float64Array;
  readonly mayHold: Float64Array;
}

/**
 * Joins the series of several parts on equal labels. A part holds for a group of labels while any of its series there does; it may hold while one of them cannot be told, and where it has no series at all. Series without one
 * of the labels belong to no group.
 *
 * @param parts the series of each part, all of `count` cells
 * @param by labels to join on; with none, there is one series
 * @example combineParts([[{ labels: {}, codes: [1, 3] }], [{ labels: {}, codes: [1, 1] }]], [], 2)[0].hold // [2, 1]
 */
export function combineParts(
  parts: readonly (readonly PartSeries[])[],
  by: readonly string[],
  count: number
): CombinedSeries[] {
  const groups = new Map<string, { labels: Labels; of: PartSeries[][] }>();
  for (const [position, series] of parts.entries())
    for (const one of series) {
      const values = by.map((label) => one.labels[label]);
      if (values.some((value) => value === undefined)) continue;
      const key = JSON.stringify(values);
      let group = groups.get(key);
      if (!group) {
        const labels = Object.fromEntries(by.map((label, i) => [label, values[i] as string]));
        groups.set(key, (group = { labels, of: parts.map(() => []) }));
      }
      group.of[position]?.push(one);
    }
  if (by.length === 0 && groups.size === 0) groups.set('[]', { labels: {}, of: parts.map(() => []) });
  return [...groups.values()].map(({ labels, of }) => {
    const hold = new Float64Array(count);
    const mayHold = new Float64Array(count);
    for (const series of of)
      for (let i = 0; i < count; i++) {
        const met = series.some(({ codes }) => codes[i] === cellCode.met);
        if (met) hold[i] = (hold[i] as number) + 1;
        if (met || series.length === 0 || series.some(({ codes }) => codes[i] === cellCode.missing))
          mayHold[i] = (mayHold[i] as number) + 1;
      }
    return { labels, hold, mayHold };
  });
}

/**
 * Whether alarms that combine others go round in a circle, and through which: the ids on it, the first again at the end. Null when they do not.
 *
 * @param partsOf the alarms that an alarm combines
 * @example circleFrom(1, (id) => ({ 1: [2], 2: [1] })[id] ?? []) // [1, 2, 1]
 */
export function circleFrom(alarm: number, partsOf: (alarm: number) => readonly number[]): number[] | null {
  const done = new Set<number>();
  const walk = (at: number, path: readonly number[]): number[] | null => {
    if (path.includes(at)) return [...path.slice(path.indexOf(at)), at];
    if (done.has(at)) return null;
    for (const part of partsOf(at)) {
      const circle = walk(part, [...path, at]);
      if (circle) return circle;
    }
    done.add(at);
    return null;
  };
  return walk(alarm, []);
}
