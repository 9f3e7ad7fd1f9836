/**
 * Where the axis of a bounded unit begins and ends: at its ends, unless everything lies in the highest or lowest hundredth of it, where it would be one flat line on
 * the frame; then only that hundredth is drawn, or a thousandth, or a ten thousandth. What lies beyond the bounds is never left out.
 *
 * @param least the smallest of what is drawn, `most` the largest; not finite when nothing is
 * @example axisEnds([0, 100], 99.72, 99.99) // [99, 100]
 */
export function axisEnds([low, high]: readonly [number, number], least: number, most: number): [number, number] {
  if (!Number.isFinite(least) || !Number.isFinite(most) || least === high || most === low) return [low, high];
  if (least < low || most > high) return [Math.min(low, least), Math.max(high, most)];
  const parts = [0.0001, 0.001, 0.01].map((part) => part * (high - low));
  const top = parts.find((part) => least >= high - part);
  if (top !== undefined) return [high - top, high];
  const bottom = parts.find((part) => most <= low + part);
  return bottom === undefined ? [low, high] : [low, low + bottom];
}
