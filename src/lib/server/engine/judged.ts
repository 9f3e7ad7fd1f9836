import type { Evidence, Peak, RememberedSeries, Standing, Transition } from '$lib/core/alarm';
import type { Instant } from '$lib/core/time';
import type { JudgedWork } from '../alarms/alarm-work';
import type { Watched } from '../alarms/alarms';
import type { KnownIncident } from '../incidents/incidents';

/** A change of a series' standing at a moment, with the numbers it was decided on. */
export interface JudgedChange {
  readonly at: Instant;
  readonly transition: Transition;
  readonly evidence: Evidence;
}

/** One series after its new cells were judged. */
export interface JudgedSeries {
  readonly watched: Watched;
  /** Nothing was remembered of it. */
  readonly isNew: boolean;
  readonly before: Standing;
  readonly after: Standing;
  readonly changes: readonly JudgedChange[];
  /** The peak of the gravest level that is held; null when none is. */
  readonly peak: Peak | null;
  readonly judgedFrom: Instant;
  readonly judgedUntil: Instant;
}

/** An alarm after its new cells were judged; nothing of it is written yet. */
export interface JudgedAlarm {
  /** UCUM code of its numbers. */
  readonly unit: string;
  readonly series: readonly JudgedSeries[];
  /** The keys of series that it does not watch any more. */
  readonly gone: readonly string[];
  readonly open: readonly KnownIncident[];
  readonly work: JudgedWork;
  /** What the work remembers, before it was written as bytes. */
  readonly remembered: ReadonlyMap<string, RememberedSeries>;
}
