import { delayOf, pointOf, type LevanteWorld } from './numbers';
import { metrics, resources, type LevanteMetric, type LevanteResource } from './world';

export interface SeriesName {
  readonly resource: string;
  readonly metric: string;
}

export interface FetchPage {
  /** Points as [minute in seconds since the epoch, sum, count, min, max], by index of what was asked and the series' labels. */
  readonly series: {
    readonly index: number;
    readonly labels: Readonly<Record<string, string>>;
    readonly points: (readonly [number, number, number, number, number])[];
  }[];
  readonly next: string | null;
}

/** Points on one page at most. */
export const pagePoints = 10_000;

interface Asked {
  readonly index: number;
  readonly resource: LevanteResource;
  readonly metric: LevanteMetric;
  readonly className: string;
}

/**
 * One page of a batched fetch: points that are visible by `now`, series by series, minutes rising. The token of the next page says where to go on.
 *
 * @param from, to milliseconds since the epoch, half-open
 * @param reports whether a resource reports guest-level metrics
 * @throws RangeError when the token is not one of ours
 * @example fetchPage(world, [{ resource: 'lev-m-p-gate-api-1', metric: 'machine.memory.use' }], from, to, now, () => true, null)
 */
export function fetchPage(
  world: LevanteWorld,
  wanted: readonly SeriesName[],
  from: number,
  to: number,
  now: number,
  reports: (resource: LevanteResource) => boolean,
  token: string | null
): FetchPage {
  const requested = wanted.flatMap((name, index) => seriesOf(name, index, reports));
  const start =
    token === null ? { index: 0, at: Math.ceil(from / 60_000) * 60_000 } : readToken(token, requested.length);
  const series: FetchPage['series'] = [];
  let room = pagePoints;
  for (let place = start.index; place < requested.length; place++) {
    const { index, resource, metric, className } = requested[place] as Asked;
    const labels: Record<string, string> = className === '' ? {} : { class: className };
    const points: (readonly [number, number, number, number, number])[] = [];
    const end = Math.min(to, now - 60_000 - delayOf(world.seed, resource, metric.name) + 1);
    for (let at = place === start.index ? start.at : Math.ceil(from / 60_000) * 60_000; at < end; at += 60_000) {
      if (room-- === 0) {
        series.push({ index, labels, points });
        return { series, next: Buffer.from(JSON.stringify({ index: place, at })).toString('base64url') };
      }
      const point = pointOf(world, resource, metric, className, at);
      if (point) points.push([at / 1000, point.sum, point.count, point.min, point.max]);
    }
    series.push({ index, labels, points });
  }
  return { series, next: null };
}

function seriesOf(name: SeriesName, index: number, reports: (resource: LevanteResource) => boolean): Asked[] {
  const resource = resources.find(({ id }) => id === name.resource);
  const metric = metrics.find((one) => one.name === name.metric && one.resourceType === resource?.type);
  if (!resource || !metric || (metric.level === 'guest' && !reports(resource))) return [];
  const classes = metric.classes.length > 0 ? metric.classes : [''];
  return classes.map((className) => ({ index, resource, metric, className }));
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
