import type { Received, ReceivedIdentity, ReceivedPoint } from '$lib/core/receive';

/** What was read, with all numbers in one column: it crosses a thread's border at once, whatever it holds. */
export interface PackedReceived extends Omit<Received, 'series'> {
  readonly series: readonly (ReceivedIdentity & { readonly length: number })[];
  /** At, sum, count, min, max and start (NaN for none) of each point, one series after the other. */
  readonly numbers: Float64Array;
}

const width = 6;

/** @example unpackReceived(packReceived(received)) // equal to `received` */
export function packReceived({ series, ...rest }: Received): PackedReceived {
  const numbers = new Float64Array(series.reduce((sum, { points }) => sum + points.length, 0) * width);
  let place = 0;
  for (const { points, starts } of series)
    for (const [index, point] of points.entries()) {
      numbers.set(point, place);
      numbers[place + 5] = starts[index] ?? NaN;
      place += width;
    }
  return {
    ...rest,
    numbers,
    series: series.map(({ resource, metric, labels, weight, points }) => ({
      resource,
      metric,
      labels,
      weight,
      length: points.length
    }))
  };
}

export function unpackReceived({ series, numbers, ...rest }: PackedReceived): Received {
  let place = 0;
  return {
    ...rest,
    series: series.map(({ length, ...identity }) => {
      const points: ReceivedPoint[] = [];
      const starts: (number | null)[] = [];
      for (let i = 0; i < length; i++, place += width) {
        const number = (column: number): number => numbers[place + column] as number;
        const point: ReceivedPoint = [number(0), number(1), number(2), number(3), number(4)];
        points.push(point);
        starts.push(Number.isNaN(number(5)) ? null : number(5));
      }
      return { ...identity, points, starts };
    })
  };
}
