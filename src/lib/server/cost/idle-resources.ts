import { idleRules, idleSince, type IdleRule } from '$lib/core/cost';
import { before, day, hour, range, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { resourcesByIds } from '../inventory/resources';
import { seriesOfMetrics } from '../inventory/series';
import type { StoreClient } from '../store/open-store';

/** A resource that does nothing. */
export interface IdleResource {
  readonly resourceId: number;
  readonly accountId: number;
  /** The provider's id. */
  readonly providerId: string;
  readonly name: string;
  readonly account: string;
  readonly service: string;
  /** Since when at least: earlier than that nothing is stored, or it did something. */
  readonly since: Instant;
  /** Whether nothing older is stored, so that it may do nothing for longer. */
  readonly isAtLeast: boolean;
  /** What was seen. */
  readonly words: string;
}

/** How far back it is looked, and how long nothing must have happened. */
const [lookback, least] = [times(30, day), times(3, day)];
/** Series of one rule that are looked at, at most: an hour of each over 30 days is a cell. */
const mostSeries = 5000;

/** Resources that do nothing, found once an hour at most: a month of every machine is read for it. */
export class IdleResources {
  readonly #sources: Sources;
  #hour = NaN;
  #found: Promise<IdleResource[]> = Promise.resolve([]);

  constructor(sources: Sources) {
    this.#sources = sources;
  }

  /** Those of an hour. */
  at(now: Instant): Promise<IdleResource[]> {
    const hourOf = Math.floor(now / hour);
    if (hourOf !== this.#hour) {
      this.#hour = hourOf;
      this.#found = findIdle(this.#sources, now);
      this.#found.catch(() => (this.#hour = NaN)); // whoever waits has the failure; the next one looks again
    }
    return this.#found;
  }
}

interface Sources {
  readonly db: Queryable;
  readonly store: Pick<StoreClient, 'samples'>;
}

/** Resources that have done nothing for three days at least, by what is collected of them. */
async function findIdle({ db, store }: Sources, now: Instant): Promise<IdleResource[]> {
  const series = await seriesOfMetrics(db, [...new Set(idleRules.map(({ metric }) => metric))]);
  const end = (Math.floor(now / hour) * hour) as Instant;
  const span = range(before(end, lookback), end);
  const found: (Pick<IdleResource, 'resourceId' | 'words'> & Idle)[] = [];
  for (const rule of idleRules) {
    const own = series
      .filter(({ metric, labels }) => metric === rule.metric && labels.type === rule.type)
      .slice(0, mostSeries);
    if (own.length === 0) continue;
    const statistic = rule.statistic === 'increase' ? 'max' : rule.statistic;
    const { columns } = await store.samples.frame(
      own.map(({ id }) => id),
      span,
      hour,
      statistic
    );
    const byResource = new Map<number, Float64Array[]>();
    for (const [index, { resourceId }] of own.entries()) {
      const values = columns[index]?.values;
      if (values === undefined) continue;
      const cells = rule.statistic === 'increase' ? increases(values) : values;
      byResource.set(resourceId, [...(byResource.get(resourceId) ?? []), cells]);
    }
    for (const [resourceId, all] of byResource) {
      const idle = idleOf(rule, largestOf(all), span.from, end);
      if (idle !== null) found.push({ resourceId, words: rule.words, ...idle });
    }
  }
  const resources = new Map(
    (
      await resourcesByIds(
        db,
        found.map((one) => one.resourceId)
      )
    ).map((one) => [one.id, one])
  );
  return found.flatMap((one) => {
    const of = resources.get(one.resourceId);
    if (of === undefined || of.endedAt !== null) return [];
    const { accountId, providerId, name, account, service } = of;
    return [{ ...one, accountId, providerId, name, account, service }];
  });
}

type Idle = Pick<IdleResource, 'since' | 'isAtLeast'>;

/** Since when cells say that nothing happens; null where they do not, or only for a short while. */
function idleOf({ below }: IdleRule, cells: Float64Array, from: Instant, end: Instant): Idle | null {
  const first = idleSince(cells, below);
  if (first === null) return null;
  const newest = cells.findLastIndex(Number.isFinite);
  const since = (from + first * hour) as Instant;
  // What is no longer heard of is not idle but gone.
  if (end - (from + newest * hour) > day || end - since < least) return null;
  return { since, isAtLeast: cells.findIndex(Number.isFinite) === first };
}

const largestOf = (all: readonly Float64Array[]): Float64Array =>
  Float64Array.from({ length: all[0]?.length ?? 0 }, (_, index) =>
    all.reduce((most, cells) => {
      const value = cells[index] as number;
      return Number.isNaN(most) ? value : Number.isNaN(value) ? most : Math.max(most, value);
    }, NaN)
  );

/** By how much a running total grew in each cell; one that began again counts from nothing. */
function increases(values: Float64Array): Float64Array {
  const grown = new Float64Array(values.length).fill(NaN);
  let last = NaN;
  for (let i = 0; i < values.length; i++) {
    const value = values[i] as number;
    if (Number.isNaN(value)) continue;
    if (!Number.isNaN(last)) grown[i] = value >= last ? value - last : value;
    last = value;
  }
  return grown;
}
