import { LRUCache } from 'lru-cache';
import { noPoints, type SummaryPoints } from '$lib/core/series';
import type { Queryable } from '../db/pool';
import { chunksOf, type ChunkKey } from './chunks';

/** Numbers cached as decoded at most: 32 MB, a board of 24 panels with 50 series each over a day. */
const mostNumbers = 4_000_000;

/** Decoded chunks that were read lately. It is only ever a copy of what the table holds. */
export class ChunkCache {
  readonly #db: Queryable;
  readonly #cached = new LRUCache<string, SummaryPoints>({
    maxSize: mostNumbers,
    sizeCalculation: ({ at, sum, min }) => 1 + at.length * (sum === min ? 2 : 5)
  });

  constructor(db: Queryable) {
    this.#db = db;
  }

  /** The points of each chunk, in the order asked; none for one that is not there. */
  async read(keys: readonly ChunkKey[]): Promise<SummaryPoints[]> {
    const found = new Map<string, SummaryPoints>();
    const missing = keys.filter((key) => {
      const points = this.#cached.get(nameOf(key));
      if (points) found.set(nameOf(key), points);
      return !points;
    });
    for (const { points, ...key } of await chunksOf(this.#db, missing)) {
      found.set(nameOf(key), points);
      this.#cached.set(nameOf(key), points);
    }
    return keys.map((key) => found.get(nameOf(key)) ?? noPoints());
  }

  /** Forgets a chunk that has been written anew. */
  forget(key: ChunkKey): void {
    this.#cached.delete(nameOf(key));
  }

  clear(): void {
    this.#cached.clear();
  }
}

const nameOf = ({ seriesId, resolution, periodFrom }: ChunkKey): string => `${seriesId}/${resolution}/${periodFrom}`;
