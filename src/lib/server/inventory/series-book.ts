import type { Queryable } from '../db/pool';
import { identitiesOf, makeSeries, type SeriesIdentity } from './series';

/** Knows the ids of series by their source's names, and makes those that are new. One for the process; it is a copy of what the table holds. */
export class SeriesBook {
  readonly #db: Queryable;
  readonly #known = new Map<number, Promise<Map<string, number>>>();

  constructor(db: Queryable) {
    this.#db = db;
  }

  /** The ids of series, in the order asked; null where the resource is not known. */
  async idsOf(accountId: number, series: readonly SeriesIdentity[]): Promise<(number | null)[]> {
    const known = await this.#of(accountId);
    const keys = series.map(keyOf);
    const missing = series.filter((_one, index) => !known.has(keys[index] as string));
    if (missing.length > 0)
      for (const made of await makeSeries(this.#db, accountId, missing)) known.set(keyOf(made), made.id);
    return keys.map((key) => known.get(key) ?? null);
  }

  /** How many series an account has. */
  async count(accountId: number): Promise<number> {
    return (await this.#of(accountId)).size;
  }

  /** How many of some series an account does not have yet. */
  async countNew(accountId: number, series: readonly SeriesIdentity[]): Promise<number> {
    const known = await this.#of(accountId);
    return new Set(series.map(keyOf).filter((key) => !known.has(key))).size;
  }

  /** Whether an account has each of some series, in their order. */
  async areKnown(accountId: number, series: readonly SeriesIdentity[]): Promise<boolean[]> {
    const known = await this.#of(accountId);
    return series.map((one) => known.has(keyOf(one)));
  }

  #of(accountId: number): Promise<Map<string, number>> {
    let known = this.#known.get(accountId);
    if (!known) {
      known = identitiesOf(this.#db, accountId).then(
        (identities) => new Map(identities.map((one) => [keyOf(one), one.id]))
      );
      this.#known.set(accountId, known);
      known.catch(() => this.#known.delete(accountId)); // whoever waits for it has the error; the next one asks again
    }
    return known;
  }
}

const keyOf = ({ resource, metric, labels }: SeriesIdentity): string => {
  const pairs = Object.entries(labels);
  const sorted = pairs.length < 2 ? pairs : pairs.sort(([a], [b]) => (a < b ? -1 : 1));
  return `${resource}\n${metric}\n${pairs.length === 0 ? '' : JSON.stringify(sorted)}`;
};
