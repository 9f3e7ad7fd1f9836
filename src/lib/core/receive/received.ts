/** One point that another program sent: an instant in milliseconds, sum, count, min, max. */
export type ReceivedPoint = readonly [at: number, sum: number, count: number, min: number, max: number];

/** Points of one series that another program sent, with what it said of them. */
export interface ReceivedSeries {
  readonly resource: { readonly id: string; readonly name: string; readonly tags: Readonly<Record<string, string>> };
  readonly metric: {
    readonly name: string;
    readonly description: string;
    /** UCUM. */
    readonly unit: string;
    readonly kind: 'gauge' | 'delta' | 'cumulative';
  };
  readonly labels: Readonly<Record<string, string>>;
  readonly points: readonly ReceivedPoint[];
}

/** What was read, and what could not be. */
export interface Received {
  readonly series: readonly ReceivedSeries[];
  /** Points that were refused. */
  readonly rejected: number;
  /** In words what was wrong, the first few; empty when nothing was. */
  readonly faults: readonly string[];
}

/** A single reading. */
export const readingAt = (at: number, value: number): ReceivedPoint => [at, value, 1, value, value];

/** The most faults that are told. */
export const mostFaults = 20;

/** Puts readings of the same series together, as they come. */
export class SeriesGatherer {
  readonly #series = new Map<string, Omit<ReceivedSeries, 'points'> & { points: ReceivedPoint[] }>();
  readonly #faults: string[] = [];
  #rejected = 0;

  add(series: Omit<ReceivedSeries, 'points'>, point: ReceivedPoint): void {
    const labels = Object.entries(series.labels).sort(([a], [b]) => (a < b ? -1 : 1));
    const key = JSON.stringify([series.resource.id, series.metric.name, labels]);
    const held = this.#series.get(key) ?? { ...series, points: [] };
    held.points.push(point);
    this.#series.set(key, held);
  }

  reject(points: number, fault: string): void {
    this.#rejected += points;
    if (this.#faults.length < mostFaults && !this.#faults.includes(fault)) this.#faults.push(fault);
  }

  result(): Received {
    return { series: [...this.#series.values()], rejected: this.#rejected, faults: this.#faults };
  }
}
