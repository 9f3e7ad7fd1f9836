/**
 * How values are looked at so that their noise is about as large at every level and about as large upwards as downwards: as they are, by their square root (counts), their logarithm (what grows by
 * factors), or the logarithm of their odds (shares near an end). Bounds of a band that is even there are uneven for the values, as the values are.
 */
export type Transform =
  | { readonly kind: 'none' }
  | { readonly kind: 'root' }
  /** Of the value plus an offset, so that 0 has a logarithm. */
  | { readonly kind: 'log'; readonly offset: number }
  /** Between two bounds. */
  | { readonly kind: 'share'; readonly low: number; readonly high: number };

/** The nearest that a share may come to its bounds, as a part of their distance. */
const nearest = 1e-4;
const farthestOdds = Math.log((1 - nearest) / nearest) - 1e-9;

/** A value as the transform looks at it. @example transformed({ kind: 'root' }, 9) // 3 */
export function transformed(transform: Transform, value: number): number {
  switch (transform.kind) {
    case 'none':
      return value;
    case 'root':
      return Math.sqrt(Math.max(0, value));
    case 'log':
      return Math.log(Math.max(value, 0) + transform.offset);
    case 'share': {
      const part = (value - transform.low) / (transform.high - transform.low);
      const inside = Math.min(1 - nearest, Math.max(nearest, part));
      return Math.log(inside / (1 - inside));
    }
    default:
      throw new RangeError(`transformed: no transform "${String(transform satisfies never)}"`);
  }
}

/** The value that a transform looks at as a number. @example restored({ kind: 'root' }, 3) // 9 */
export function restored(transform: Transform, number: number): number {
  switch (transform.kind) {
    case 'none':
      return number;
    case 'root':
      return number < 0 ? -(number * number) : number * number;
    case 'log':
      return Math.exp(number) - transform.offset;
    case 'share':
      // What is as near as it may come is at the bound itself: a value there is not beyond it.
      if (Math.abs(number) >= farthestOdds) return number > 0 ? transform.high : transform.low;
      return transform.low + (transform.high - transform.low) / (1 + Math.exp(-number));
    default:
      throw new RangeError(`restored: no transform "${String(transform satisfies never)}"`);
  }
}

/** Transforms a column; gaps stay gaps. */
export function transformedColumn(transform: Transform, values: ArrayLike<number>): Float64Array {
  const out = new Float64Array(values.length);
  switch (transform.kind) {
    case 'none':
      for (let i = 0; i < values.length; i++) out[i] = values[i] as number;
      return out;
    case 'root':
      for (let i = 0; i < values.length; i++) {
        const value = values[i] as number;
        out[i] = value < 0 ? 0 : Math.sqrt(value);
      }
      return out;
    case 'log':
    case 'share':
      for (let i = 0; i < values.length; i++) out[i] = transformed(transform, values[i] as number);
      return out;
    default:
      throw new RangeError(`transformedColumn: no transform "${String(transform satisfies never)}"`);
  }
}
