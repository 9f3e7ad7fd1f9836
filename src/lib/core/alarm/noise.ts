import { duration, type Duration, type Instant, type Range } from '../time';
import { flapsWithin } from './figures';
import { graver, type Severity } from './severity';

/** One raised period of one series of an alarm. */
export interface PastPeriod {
  readonly key: string;
  readonly from: Instant;
  /** Null while it is raised. */
  readonly to: Instant | null;
  readonly severity: Severity;
  /** Whether somebody noted that they look after it. */
  readonly isAcknowledged: boolean;
}

/** How an alarm behaved over some time. */
export interface Noise {
  readonly count: number;
  /** Periods that began within an hour after the one before on the same series. */
  readonly flapping: number;
  /** The share of the time at which any series was raised: 0 to 1. */
  readonly share: number;
  /** The longest that is raised still and that nobody looks after; 0 when there is none. */
  readonly openFor: Duration;
  /** When any series was raised, with the gravest severity of each stretch, in order. */
  readonly strip: readonly { readonly from: Instant; readonly to: Instant; readonly severity: Severity }[];
}

/**
 * Counts how an alarm behaved.
 *
 * @param periods in any order
 * @param span that is looked at; what reaches beyond it is cut off
 * @example noiseOf([], span) // { count: 0, flapping: 0, share: 0, openFor: 0, strip: [] }
 */
export function noiseOf(periods: readonly PastPeriod[], span: Range): Noise {
  const sorted = periods
    .filter(({ from, to }) => from < span.to && (to ?? span.to) >= span.from)
    .toSorted((a, b) => a.from - b.from);
  const lastOf = new Map<string, number>();
  let [count, flapping, openFor] = [0, 0, 0];
  const strip: { from: Instant; to: Instant; severity: Severity }[] = [];
  for (const { key, from, to, severity, isAcknowledged } of sorted) {
    if (from >= span.from) count++;
    const before = lastOf.get(key);
    if (before !== undefined && from >= span.from && from - before < flapsWithin) flapping++;
    const until = to ?? span.to;
    lastOf.set(key, until);
    if (to === null && !isAcknowledged) openFor = Math.max(openFor, span.to - from);
    const start = Math.max(from, span.from) as Instant;
    const end = Math.min(until, span.to) as Instant;
    const last = strip.at(-1);
    if (last && start <= last.to) {
      last.to = Math.max(last.to, end) as Instant;
      last.severity = graver(last.severity, severity) as Severity;
    } else strip.push({ from: start, to: end, severity });
  }
  const raised = strip.reduce((sum, { from, to }) => sum + (to - from), 0);
  return { count, flapping, share: raised / Math.max(1, span.to - span.from), openFor: duration(openFor), strip };
}

/** Ready views of the list of alarms. */
export const alarmViews = ['raised', 'flapping', 'unheeded', 'never', 'always', 'off'] as const;
export type AlarmView = (typeof alarmViews)[number];

const dayMs = 86_400_000;
/** Raised again so often within an hour, it flaps. */
const manyFlaps = 3;
/** Raised this share of a month, it says how things usually are. */
const alwaysShare = 0.5;
/** Raised for so long, or so often without anybody notified, nobody acts on it. */
const unheededFor = dayMs;
const unheededCount = 5;
/** An alarm is never raised when it was not in so long, and has been there that long. */
const neverFor = 14 * dayMs;

/** Whether a view of the list shows an alarm. */
export function isInView(
  view: AlarmView,
  alarm: {
    readonly enabled: boolean;
    readonly raised: number;
    /** Whether any route takes what it raises. */
    readonly notifies: boolean;
    /** How long its history reaches back. */
    readonly watchedFor: number;
    readonly noise: Noise;
  }
): boolean {
  const { enabled, raised, notifies, watchedFor, noise } = alarm;
  if (view === 'off') return !enabled;
  if (!enabled) return false;
  switch (view) {
    case 'raised':
      return raised > 0;
    case 'flapping':
      return noise.flapping >= manyFlaps;
    case 'unheeded':
      return noise.openFor >= unheededFor || (!notifies && noise.count >= unheededCount);
    case 'never':
      return noise.count === 0 && noise.share === 0 && watchedFor >= neverFor;
    case 'always':
      return noise.share >= alwaysShare;
    default:
      throw new RangeError(`isInView: no view "${String(view satisfies never)}"`);
  }
}
