import { LRUCache } from 'lru-cache';
import type { ReceivedSeries } from '$lib/core/receive';

/** How long what was described counts as known, ms of real time: a program that pushes every few seconds describes the same each time. */
const knownFor = 30_000;
const mostKnown = 50_000;

/**
 * Remembers which metrics and resources an account described lately, so that the same words are not written again with each request. How old a resource's last word is can be
 * off by as much.
 *
 * @example lately.news(7, series); // what is still to be written
 */
export class LatelyDescribed {
  readonly #known = new LRUCache<string, true>({ max: mostKnown, ttl: knownFor });

  /** The series of which the metric or the resource was not described lately in the same words. */
  news(accountId: number, series: readonly ReceivedSeries[]): ReceivedSeries[] {
    return series.filter((one) => wordsOf(accountId, one).some((words) => !this.#known.has(words)));
  }

  /** To be called once they have been written. */
  note(accountId: number, series: readonly ReceivedSeries[]): void {
    for (const words of series.flatMap((one) => wordsOf(accountId, one))) this.#known.set(words, true);
  }
}

const wordsOf = (accountId: number, { metric, resource }: ReceivedSeries): string[] => [
  JSON.stringify([accountId, metric.name, metric.unit, metric.kind, metric.description]),
  JSON.stringify([accountId, resource.id, resource.name, resource.tags])
];
