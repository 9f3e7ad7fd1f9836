import type { ShapedLine } from './log-head';

/** Those of lines in order that are in a half-open span. */
export const between = (lines: readonly ShapedLine[], from: number, to: number): readonly ShapedLine[] => {
  const times = { length: lines.length, at: (index: number) => lines[index]?.at ?? Infinity };
  return lines.slice(firstFrom(times, from), firstFrom(times, to));
};

/** Where the first of ascending times is that is not before a moment. */
export const lowerBound = (at: Float64Array, wanted: number): number =>
  firstFrom({ length: at.length, at: (index) => at[index] ?? Infinity }, wanted);

/** Where the first of ascending times is that is not before a moment. */
function firstFrom(times: { readonly length: number; readonly at: (index: number) => number }, wanted: number): number {
  let [low, high] = [0, times.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (times.at(middle) < wanted) low = middle + 1;
    else high = middle;
  }
  return low;
}
