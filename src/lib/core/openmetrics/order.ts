import type { ExposedSample, MetricFamily } from './exposition';

/** How far a series has been read. */
interface SeriesSoFar {
  /** Milliseconds since the epoch; null when its samples have no time. */
  at: number | null;
}

/** The buckets of one histogram at one time, as far as they have been read. */
interface Buckets {
  of: string;
  at: number | null;
  bound: number;
  count: number;
}

/**
 * Checks what OpenMetrics 1.0 demands of lines together: the lines of a family stand together (section 4.4), it is described before its samples and by each word
 * once (4.5), no series has two samples of one time and its times rise (4.6), and the buckets of a histogram come with rising bounds and counts (5.3).
 *
 * @example
 * const order = new OrderChecker();
 * order.take(sample); // null, or 'repeats a series of line 3'
 */
export class OrderChecker {
  readonly #described = new Map<MetricFamily, Set<string>>();
  readonly #begun = new Set<MetricFamily>();
  readonly #series = new Map<string, SeriesSoFar>();
  #current: MetricFamily | null = null;
  #buckets: Buckets | null = null;

  /** A line that describes a family. @returns why it may not stand there; null when it may */
  describe(family: MetricFamily, word: 'TYPE' | 'UNIT' | 'HELP'): string | null {
    if (this.#current !== family && this.#described.has(family)) return apart(family);
    if (this.#begun.has(family)) return `describes ${family.name} behind its samples`;
    const words = this.#described.get(family) ?? new Set<string>();
    if (words.has(word)) return `is a second ${word} of ${family.name}`;
    this.#described.set(family, words.add(word));
    this.#current = family;
    return null;
  }

  /** A sample. @returns why it may not stand there; null when it may */
  take({ name, family, labels, at, value }: ExposedSample): string | null {
    if (this.#current !== family && (this.#begun.has(family) || this.#described.has(family))) return apart(family);
    this.#current = family;
    this.#begun.add(family);
    const key = seriesKey(name, labels);
    const before = this.#series.get(key);
    if (before !== undefined && (before.at === null || at === null || at <= before.at))
      return before.at === at ? 'repeats a series of a line before' : 'goes back in time in its series';
    const isBucket = family.type === 'histogram' && name.endsWith('_bucket');
    const misplaced = isBucket ? this.#takeBucket(name, labels, at, value) : null;
    if (misplaced !== null) return misplaced;
    if (before === undefined) this.#series.set(key, { at });
    else before.at = at;
    return null;
  }

  #takeBucket(
    name: string,
    { le, ...others }: Readonly<Record<string, string>>,
    at: number | null,
    count: number
  ): string | null {
    const bound = le === '+Inf' ? Infinity : Number(le ?? NaN);
    if (Number.isNaN(bound)) return 'is a bucket whose label le is no number';
    const of = seriesKey(name, others);
    const before = this.#buckets?.of === of && this.#buckets.at === at ? this.#buckets : null;
    if (before !== null && bound <= before.bound) return 'is a bucket below the one before it: bounds must rise';
    if (before !== null && count < before.count)
      return 'is a bucket with a smaller count than the one before it: counts must not fall';
    this.#buckets = { of, at, bound, count };
    return null;
  }
}

const apart = ({ name }: MetricFamily): string => `belongs to ${name}, whose lines do not stand together`;

function seriesKey(name: string, labels: Readonly<Record<string, string>>): string {
  const pairs = Object.entries(labels);
  if (pairs.length > 1) pairs.sort(([one], [other]) => (one < other ? -1 : 1));
  let key = name;
  for (const [label, value] of pairs) key += `\n${label}\n${value.length}\n${value}`;
  return key;
}
