/** A limit that is being dragged. */
export interface LimitDrag {
  readonly index: number;
  /** The value at a pixel, in the unit of the picture, rounded to what people would type. */
  valueAt(y: number): number;
}

/** Where a straight scale of a chart draws a value. */
interface ValueScale {
  readonly min: number;
  readonly max: number;
  readonly top: number;
  readonly bottom: number;
  getPixelForValue(value: number): number;
  getValueForPixel(pixel: number): number | undefined;
}

/** A limit is taken hold of from so many pixels away. */
const reach = 6;

/**
 * The limit under a pixel, to be dragged: where the chart draws other numbers meanwhile, the pixels go on to mean what they meant when it was taken hold of.
 *
 * @param divisor by which values are divided where they are drawn
 * @returns null where no limit is near
 * @example limitDrag(scale, [{ value: 80 }], 1, 61)?.valueAt(41) // 90
 */
export function limitDrag(
  scale: ValueScale,
  limits: readonly { readonly value: number }[],
  divisor: number,
  y: number
): LimitDrag | null {
  const distances = limits.map(({ value }) => Math.abs(scale.getPixelForValue(value / divisor) - y));
  const nearest = distances.reduce(
    (least, distance, index) => (distance < (distances[least] ?? Infinity) ? index : least),
    0
  );
  if (!((distances[nearest] ?? Infinity) <= reach)) return null;
  const valueOf = (pixel: number) => (scale.getValueForPixel(pixel) ?? NaN) * divisor;
  const [top, bottom] = [scale.top, scale.bottom];
  const [high, low] = [valueOf(top), valueOf(bottom)];
  const unit = 10 ** Math.floor(Math.log10(Math.abs(high - low) / 100 || 1));
  return {
    index: nearest,
    valueAt: (pixel) => {
      const inside = Math.min(bottom, Math.max(top, pixel));
      const value = high + ((low - high) * (inside - top)) / (bottom - top);
      return Number((Math.round(value / unit) * unit).toPrecision(12));
    }
  };
}
