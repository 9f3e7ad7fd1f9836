/** Kinds of work of which it is remembered what took long. */
export const slowKinds = ['panels', 'queries', 'pulls', 'requests', 'statements'] as const;
export type SlowKind = (typeof slowKinds)[number];

/** What one piece of work came to, all its times together; ms. */
export interface Slow {
  /** What it is: equal for all its times. */
  readonly key: string;
  /** What is to be known of it, as it was the first time. */
  readonly about: unknown;
  readonly times: number;
  readonly total: number;
  readonly longest: number;
  /** How long ago the longest time ended. */
  readonly longestAgo: number;
}

interface Noted {
  readonly about: unknown;
  times: number;
  total: number;
  longest: number;
  /** By the clock of this process, which nobody sets. */
  longestAt: number;
}

/** Pieces of work of each kind that are remembered; of more, those that took least are forgotten. */
const mostPieces = 500;
/** What has a longer name is not remembered, so that nobody fills the memory with long queries. */
const longestKey = 4000;
/** For so long at least, ms; twice as long at most. */
const usualHalf = 12 * 3_600_000;

/**
 * Remembers what work of this process took long: of each piece how often it was done and how long it took, for the last 12 to 24 hours.
 *
 * @param now ms of a clock that nobody sets
 * @example
 * const slow = new SlowWork();
 * slow.note('statements', 'select 1', 3);
 * slow.slowest('statements', 10)[0]?.total // 3
 */
export class SlowWork {
  readonly #now: () => number;
  readonly #half: number;
  #current = new Map<SlowKind, Map<string, Noted>>();
  #before = new Map<SlowKind, Map<string, Noted>>();
  #since: number;
  #turnedAt: number;

  constructor(now: () => number = () => performance.now(), half = usualHalf) {
    this.#now = now;
    this.#half = half;
    this.#since = this.#turnedAt = now();
  }

  /** Notes that something was done, and how long it took, ms. */
  note(kind: SlowKind, key: string, took: number, about: unknown = null): void {
    if (key.length > longestKey) return;
    const now = this.#turn();
    let ofKind = this.#current.get(kind);
    if (ofKind === undefined) this.#current.set(kind, (ofKind = new Map<string, Noted>()));
    let one = ofKind.get(key);
    if (one === undefined) {
      if (ofKind.size >= 2 * mostPieces) this.#current.set(kind, (ofKind = longestOf(ofKind)));
      ofKind.set(key, (one = { about, times: 0, total: 0, longest: 0, longestAt: now }));
    }
    one.times++;
    one.total += took;
    if (took < one.longest) return;
    one.longest = took;
    one.longestAt = now;
  }

  /** What took longest, all its times together. @param by the longest single time instead */
  slowest(kind: SlowKind, most: number, by: 'total' | 'longest' = 'total'): Slow[] {
    const now = this.#turn();
    const all = new Map<string, Noted>();
    for (const ofKind of [this.#before.get(kind), this.#current.get(kind)])
      for (const [key, one] of ofKind ?? []) all.set(key, together(all.get(key), one));
    return [...all]
      .map(([key, { longestAt, ...one }]): Slow => ({ key, ...one, longestAgo: now - longestAt }))
      .sort((one, other) => other[by] - one[by])
      .slice(0, most);
  }

  /** For how long work is remembered that is listed now, ms. */
  get length(): number {
    return this.#turn() - this.#since;
  }

  /** Forgets what is older than half of the time that is remembered. @returns now */
  #turn(): number {
    const now = this.#now();
    if (now - this.#turnedAt < this.#half) return now;
    // After a long rest, what was current is too old as well.
    this.#before = now - this.#turnedAt < 2 * this.#half ? this.#current : new Map<SlowKind, Map<string, Noted>>();
    this.#since = this.#before === this.#current ? this.#turnedAt : now;
    this.#current = new Map();
    this.#turnedAt = now;
    return now;
  }
}

const longestOf = (all: ReadonlyMap<string, Noted>): Map<string, Noted> =>
  new Map([...all].sort(([, one], [, other]) => other.total - one.total).slice(0, mostPieces));

function together(one: Noted | undefined, other: Noted): Noted {
  if (one === undefined) return other;
  const longer = other.longest >= one.longest ? other : one;
  return {
    ...{ about: other.about, times: one.times + other.times, total: one.total + other.total },
    ...{ longest: longer.longest, longestAt: longer.longestAt }
  };
}

/** What this process remembers. */
export const slowWork = new SlowWork();
