import { delayOf, pointOf, type Stress } from './numbers';
import { machines } from './world';

export interface SeriesName {
  readonly resource: string;
  readonly metric: string;
}

export interface FetchPage {
  /** Points as [minute in seconds since the epoch, sum, count, min, max], by index of the asked series. */
  readonly series: { readonly index: number; readonly points: (readonly [number, number, number, number, number])[] }[];
  readonly next: string | null;
}

/** Points on one page at most. */
export const pagePoints = 10_000;

/**
 * One page of a batched fetch: points that are there by `now`, series by series, minutes rising. The token of the next page says where to go on.
 *
 * @param from, to milliseconds since the epoch, half-open
 * @throws RangeError when the token is not one of ours
 * @example fetchPage(1, [{ resource: 'lev-m-p-gate-api-1', metric: 'machine.memory.use' }], from, to, now, [], null)
 */
export function fetchPage(
  seed: number,
  wanted: readonly SeriesName[],
  from: number,
  to: number,
  now: number,
  stresses: readonly Stress[],
  token: string | null
): FetchPage {
  const start = token === null ? { index: 0, at: Math.ceil(from / 60_000) * 60_000 } : readToken(token, wanted.length);
  const series: FetchPage['series'] = [];
  let room = pagePoints;
  for (let index = start.index; index < wanted.length; index++) {
    const name = wanted[index] as SeriesName;
    const machine = machines.find(({ id }) => id === name.resource);
    if (!machine) continue;
    const points: (readonly [number, number, number, number, number])[] = [];
    const end = Math.min(to, now - 60_000 - delayOf(seed, machine, name.metric) + 1);
    for (let at = index === start.index ? start.at : Math.ceil(from / 60_000) * 60_000; at < end; at += 60_000) {
      if (room-- === 0) {
        series.push({ index, points });
        return { series, next: Buffer.from(JSON.stringify({ index, at })).toString('base64url') };
      }
      const point = pointOf(seed, machine, name.metric, at, stresses);
      if (point) points.push([at / 1000, point.sum, point.count, point.min, point.max]);
    }
    series.push({ index, points });
  }
  return { series, next: null };
}

function readToken(token: string, length: number): { index: number; at: number } {
  try {
    const { index, at } = JSON.parse(Buffer.from(token, 'base64url').toString('utf8')) as {
      index: unknown;
      at: unknown;
    };
    if (Number.isInteger(index) && Number.isInteger(at) && (index as number) >= 0 && (index as number) < length)
      return { index: index as number, at: at as number };
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
  }
  throw new RangeError(`fetchPage: "${token.slice(0, 40)}" is not a page token of this fetch`);
}
