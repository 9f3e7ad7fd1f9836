import { LRUCache } from 'lru-cache';
import { headPart, readHead, type SegmentHead, type SegmentSummary } from '$lib/core/logs';
import type { Queryable } from '../db/pool';
import { partsOf, summariesOf, type SegmentEntry } from './segments';

/** Bytes of summaries and of heads that are kept, each. */
const mostBytes = 64 * 1024 * 1024;

/** What searches need of segments again and again: their summaries, and what they look at of each line. */
export class SegmentCache {
  readonly #db: Queryable;
  readonly #summaries = new LRUCache<number, SegmentSummary>({ maxSize: mostBytes, sizeCalculation: sizeOf });
  readonly #heads = new LRUCache<number, Uint8Array>({
    maxSize: mostBytes,
    sizeCalculation: ({ length }) => Math.max(1, length)
  });

  /** Segments that are damaged: they are passed over from then on. */
  readonly #damaged = new Set<number>();
  readonly #onDamage = (segmentId: number): void => {
    this.#damaged.add(segmentId);
  };

  constructor(db: Queryable) {
    this.#db = db;
  }

  /** How many segments were found to be damaged. */
  get damaged(): number {
    return this.#damaged.size;
  }

  /** The summaries of segments; without those that are gone. */
  async summaries(segments: readonly SegmentEntry[]): Promise<Map<number, SegmentSummary>> {
    const missing = segments.filter(({ id }) => !this.#summaries.has(id) && !this.#damaged.has(id)).map(({ id }) => id);
    const read =
      missing.length === 0 ? new Map<number, SegmentSummary>() : await summariesOf(this.#db, missing, this.#onDamage);
    const found = new Map<number, SegmentSummary>();
    for (const { id } of segments) {
      if (this.#damaged.has(id)) continue;
      const summary = this.#summaries.get(id) ?? read.get(id);
      if (summary !== undefined) found.set(id, summary);
    }
    for (const [id, summary] of read) this.#summaries.set(id, summary);
    return found;
  }

  /** Heads and other parts of segments, all at once. */
  async parts(
    wanted: readonly { readonly segment: SegmentEntry; readonly parts: readonly number[] }[]
  ): Promise<Map<number, { readonly head: SegmentHead; readonly parts: ReadonlyMap<number, Uint8Array> }>> {
    const missing = wanted.flatMap(({ segment, parts }) => [
      ...(this.#heads.has(segment.id) ? [] : [{ segment, part: headPart }]),
      ...parts.map((part) => ({ segment, part }))
    ]);
    const read =
      missing.length === 0
        ? new Map<number, Map<number, Uint8Array>>()
        : await partsOf(this.#db, missing, this.#onDamage);
    const found = new Map<number, { head: SegmentHead; parts: ReadonlyMap<number, Uint8Array> }>();
    for (const { segment } of wanted) {
      const parts = read.get(segment.id) ?? new Map<number, Uint8Array>();
      const head = this.#heads.get(segment.id) ?? parts.get(headPart);
      if (head === undefined || this.#damaged.has(segment.id)) continue;
      this.#heads.set(segment.id, head);
      found.set(segment.id, { head: readHead(head, segment.lines), parts });
    }
    return found;
  }
}

/** About as many bytes as a summary takes in memory. */
function sizeOf({ groups, fields, traces }: SegmentSummary): number {
  let bytes = 400 + traces.length;
  for (const { pieces, filter } of groups)
    bytes += 120 + filter.length + 2 * (pieces ?? []).reduce((sum, piece) => sum + 20 + (piece?.length ?? 0), 0);
  for (const { name, values, filter } of fields)
    bytes += 150 + name.length + filter.length + 2 * (values ?? []).reduce((sum, value) => sum + 20 + value.length, 0);
  return bytes;
}
