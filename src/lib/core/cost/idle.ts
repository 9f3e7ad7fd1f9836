/** How it is told that a resource of a type does nothing: a metric that stays below a limit. */
export interface IdleRule {
  readonly type: string;
  readonly metric: string;
  /** What is made of the samples of an hour; the largest hour has to be below the limit. */
  readonly statistic: 'max' | 'avg' | 'sum' | 'increase';
  readonly below: number;
  /** The evidence in words. @example 'processor below 2 %' */
  readonly words: string;
}

/** Which resources are idle, by type. What has none of its metrics collected is never called idle. */
export const idleRules: readonly IdleRule[] = [
  { type: 'machine', metric: 'machine.processor.use', statistic: 'max', below: 3, words: 'processor below 3 %' },
  { type: 'database', metric: 'database.statements', statistic: 'max', below: 0.1, words: 'no statements' },
  { type: 'function', metric: 'function.calls', statistic: 'sum', below: 1, words: 'no calls' },
  { type: 'queue', metric: 'queue.sent', statistic: 'sum', below: 1, words: 'no messages' },
  { type: 'balancer', metric: 'balancer.responses', statistic: 'sum', below: 1, words: 'no requests' },
  { type: 'object-store', metric: 'object-store.requests', statistic: 'increase', below: 1, words: 'no requests' },
  { type: 'replication', metric: 'replication.network-in', statistic: 'max', below: 1, words: 'nothing is copied' },
  { type: 'gateway', metric: 'gateway.bytes-out', statistic: 'max', below: 1, words: 'nothing is sent' }
];

/**
 * Since when a resource does nothing: how many of the newest whole cells are all below a limit.
 *
 * @param cells the largest value of each cell, oldest first; a gap (NaN) says nothing and is passed over
 * @returns the index of the first of them; null where the newest cell with a value is not below, or there is none
 * @example idleSince([40, 1, NaN, 1.2], 2) // 1
 */
export function idleSince(cells: ArrayLike<number>, below: number): number | null {
  let since: number | null = null;
  for (let i = cells.length - 1; i >= 0; i--) {
    const value = cells[i] as number;
    if (Number.isNaN(value)) continue;
    if (value >= below) break;
    since = i;
  }
  return since;
}
