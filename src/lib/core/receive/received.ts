import { Refusal } from '../problem/problem';
import { unstorable, mendedText } from '../forms/storable';

/** One point as another program sent it: an instant in milliseconds, sum, count, min, max. */
export type ReceivedPoint = readonly [at: number, sum: number, count: number, min: number, max: number];

/** Who a series is, as another program describes it. */
export interface ReceivedIdentity {
  readonly resource: { readonly id: string; readonly name: string; readonly tags: Readonly<Record<string, string>> };
  readonly metric: {
    readonly name: string;
    readonly description: string;
    /** UCUM. */
    readonly unit: string;
    readonly kind: 'gauge' | 'delta' | 'cumulative';
  };
  readonly labels: Readonly<Record<string, string>>;
  /** How many points of what was sent each of its points stands for: 1, or 0 for the further parts of a histogram or summary. */
  readonly weight: 0 | 1;
}

/** Points of one series that another program sent. */
export interface ReceivedSeries extends ReceivedIdentity {
  /** In the order they came, no instant twice. */
  readonly points: readonly ReceivedPoint[];
  /** For each point, since when a running total counts or a change lasted, ms since the epoch; null where that was not said. */
  readonly starts: readonly (number | null)[];
}

/** Why points are refused. What is stored of it is counted under these words, on the intake page too. */
export const refusals = {
  unreadable: 'cannot be read',
  notFinite: 'no finite number',
  badTime: 'no possible time',
  future: 'more than ten minutes ahead',
  repeated: 'sent twice',
  unstorable: 'text that cannot be stored',
  unsupported: 'not supported',
  otherUnit: 'another unit than before',
  otherKind: 'another kind than before',
  tooManySeries: 'beyond the series of the key'
} as const;
export type RefusalReason = (typeof refusals)[keyof typeof refusals];

/** How many points were refused for a reason, with the first example. */
export interface RefusedPoints {
  readonly reason: RefusalReason;
  readonly count: number;
  readonly example: string;
}

/** What was read, and what could not be. */
export interface Received {
  readonly series: readonly ReceivedSeries[];
  readonly refused: readonly RefusedPoints[];
  /** In words what was wrong, the first few; empty when nothing was. */
  readonly faults: readonly string[];
}

/** A single reading. @example readingAt(60_000, 3) // [60000, 3, 1, 3, 3] */
export const readingAt = (at: number, value: number): ReceivedPoint => [at, value, 1, value, value];

/** The most faults that are reported one by one. */
export const mostFaults = 20;

/** With so many parts that cannot be read, what was sent is something else than it says: it is refused whole. */
export const mostUnreadable = 1000;

/** The most points and series of one request, and labels of one series. */
export const mostPoints = 500_000;
export const mostSeries = 20_000;
export const mostLabels = 128;

/** Bytes that metric and labels of a series may have together: the database finds series by them, and no entry of its index may be longer. */
const mostIdentityBytes = 2_300;

/** A point further ahead of now than this comes from a clock that is wrong, ms. */
export const toleratedFuture = 600_000;

interface Gathered {
  readonly identity: ReceivedIdentity;
  readonly points: ReceivedPoint[];
  readonly starts: (number | null)[];
  /** Places of points by their instants. */
  readonly places: Map<number, number>;
  /** Why nothing of it can be stored; null when it can. */
  readonly problem: string | null;
}

/**
 * Puts readings of the same series together, as they come, and counts what is refused by reason.
 *
 * @param now points much later than this are refused
 * @example
 * const gather = new SeriesGatherer(now);
 * gather.add(identity, readingAt(now, 3), 'Line 1');
 * gather.result().series.length // 1
 */
export class SeriesGatherer {
  readonly #now: number;
  readonly #series = new Map<string, Gathered>();
  readonly #faults: string[] = [];
  readonly #refused = new Map<RefusalReason, { count: number; example: string }>();
  #points = 0;

  constructor(now: number) {
    this.#now = now;
  }

  /**
   * @param where the point stands, for what is said of it
   * @param start since when it counts or lasted; null when that is not said
   * @returns whether the point was taken
   * @throws ReceiveFault when there are too many points or series
   */
  add(identity: ReceivedIdentity, point: ReceivedPoint, where: string, start: number | null = null): boolean {
    const refused = this.refusalOf(point);
    if (refused !== null) {
      this.refuse(identity.weight, refused[0], `${where}: ${refused[1]}.`);
      return false;
    }
    const series = this.#of(identity);
    if (series.problem !== null) {
      this.refuse(identity.weight, refusals.unstorable, `${where}: ${series.problem}.`);
      return false;
    }
    if (++this.#points > mostPoints)
      throw new Refusal('too-large', `There are more than ${mostPoints} points.`, 'Send them in several requests.');
    const [at] = point;
    const place = series.places.get(at);
    if (place !== undefined) {
      series.points[place] = point; // the last word counts
      series.starts[place] = start;
      this.refuse(identity.weight, refusals.repeated, `${where}: the same series and time again; the last one counts.`);
      return true;
    }
    series.places.set(at, series.points.length);
    series.points.push(point);
    series.starts.push(start);
    return true;
  }

  /** Why a point cannot be stored, whatever its series: the reason and words for it; null when it can. */
  refusalOf([at, ...values]: ReceivedPoint): readonly [RefusalReason, string] | null {
    const broken = values.find((value) => !Number.isFinite(value));
    if (broken !== undefined) return [refusals.notFinite, `${broken} is no finite number`];
    if (!(at > 0) || at > lastInstant) return [refusals.badTime, 'its time is not between 1970 and 9999'];
    if (at > this.#now + toleratedFuture) return [refusals.future, 'its time is more than ten minutes ahead of now'];
    return null;
  }

  /**
   * Counts points that are refused.
   *
   * @param points how many
   * @throws ReceiveFault when too many cannot be read
   */
  refuse(points: number, reason: RefusalReason, fault: string): void {
    const known = this.#refused.get(reason);
    const count = (known?.count ?? 0) + points;
    if (points > 0) this.#refused.set(reason, { count, example: known?.example ?? fault });
    this.note(fault);
    if (reason === refusals.unreadable && count > mostUnreadable)
      throw new Refusal(
        'unreadable',
        `More than ${mostUnreadable} parts cannot be read, so nothing was stored. ${this.#faults[0] ?? ''}`,
        'Check the format, and send it again.'
      );
  }

  /** Says something of what was sent that costs no point. */
  note(fault: string): void {
    if (this.#faults.length < mostFaults && !this.#faults.includes(fault)) this.#faults.push(fault);
  }

  result(): Received {
    return {
      series: [...this.#series.values()]
        .filter(({ points }) => points.length > 0)
        .map(({ identity, points, starts }) => ({ ...identity, points, starts })),
      refused: [...this.#refused].map(([reason, { count, example }]) => ({ reason, count, example })),
      faults: this.#faults
    };
  }

  #of(identity: ReceivedIdentity): Gathered {
    const { resource, metric, labels } = identity;
    const sorted = Object.entries(labels).sort(([one], [other]) => (one < other ? -1 : 1));
    const key = JSON.stringify([resource.id, metric.name, sorted]);
    const known = this.#series.get(key);
    if (known !== undefined) {
      const { kind, unit } = known.identity.metric;
      if (known.problem !== null || (kind === metric.kind && unit === metric.unit)) return known;
      return { ...known, problem: `${metric.name} stands in the request with two kinds or units` };
    }
    if (this.#series.size >= mostSeries)
      throw new Refusal('too-large', `There are more than ${mostSeries} series.`, 'Send them in several requests.');
    const made = { identity, points: [], starts: [], places: new Map(), problem: identityProblem(identity) };
    this.#series.set(key, made);
    return made;
  }
}

/** The last instant with a year of four digits. */
const lastInstant = 253_402_300_799_999;

/** Why a series cannot be stored under its name and labels, in words; null when it can. */
function identityProblem({ resource, metric, labels }: ReceivedIdentity): string | null {
  if (metric.name === '') return 'the metric has no name';
  if (metric.name.length > 200) return 'the name of the metric has more than 200 characters';
  if (resource.id.length > 400) return 'the name of the resource has more than 400 characters';
  const pairs = Object.entries(labels);
  if (pairs.length > mostLabels) return `the series has ${pairs.length} labels, more than ${mostLabels}`;
  const texts = [metric.name, metric.unit, metric.description, resource.id, resource.name];
  for (const text of [...texts, ...pairs.flat(), ...Object.entries(resource.tags).flat()]) {
    const why = unstorable(text);
    if (why !== null) return `"${shown(text)}" ${why}`;
  }
  const bytes = utf8Length(metric.name) + pairs.reduce((sum, pair) => sum + utf8Length(pair.join('')) + 10, 0);
  return bytes > mostIdentityBytes
    ? `metric and labels have ${bytes} bytes together, more than ${mostIdentityBytes}`
    : null;
}

const utf8Length = (text: string): number => new TextEncoder().encode(text).length;

/** A text without what cannot be shown, cut short. */
const shown = (text: string): string => mendedText(text).slice(0, 60);
