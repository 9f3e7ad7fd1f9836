import { countedAs, type AlarmDefinition, type Explanation, type Severity, type State } from '$lib/core/alarm';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { changeUpTo, stateBeforeNext } from '../incidents/incidents';
import type { Alarm, AlarmSeries } from '../alarms/alarms';
import { versionAt, versionOfAlarm } from '../alarms/versions';

/** What an alarm did about a series at a moment, and why. */
export interface Why {
  /** The definition that was in force then, or the first one when there was none yet. */
  readonly definition: AlarmDefinition;
  readonly version: number;
  readonly by: string;
  readonly since: Instant;
  /** Whether the alarm was there at that moment. */
  readonly existed: boolean;
  /** The change of state that was in force, as it was recorded; null when none was recorded before. */
  readonly recorded: Awaited<ReturnType<typeof changeUpTo>>;
  /** How it stood; null when it was not judged yet. Since when is null where that was not recorded. */
  readonly standing: {
    readonly state: State;
    readonly severity: Severity | null;
    readonly since: Instant | null;
  } | null;
  /** What its windows held by what is stored now, or why that cannot be told. */
  readonly explanation: Explanation | Problem;
  /** Cells of the deciding window that read otherwise now than when they were judged: their samples came later. Null when the moment is not the one at which it was decided. */
  readonly changedSince: number | null;
}

/** Explains what an alarm did about a series at a moment. */
export async function whyAt(
  db: Queryable,
  alarm: Alarm,
  { key, state, severity, since: heldSince }: Pick<AlarmSeries, 'key' | 'state' | 'severity' | 'since'>,
  at: Instant,
  explain: (definition: AlarmDefinition, at: Instant) => Promise<Explanation | Problem>
): Promise<Why> {
  const [inForce, first, recorded] = await Promise.all([
    versionAt(db, alarm.id, at),
    versionOfAlarm(db, alarm.id, 1),
    changeUpTo(db, alarm.id, key, at)
  ]);
  const now = { version: alarm.version, definition: alarm.definition, at: alarm.changedAt, by: alarm.changedBy };
  const { definition, version, by, at: since } = inForce ?? first ?? now;
  const existed = inForce !== null;
  const next = recorded === null ? await stateBeforeNext(db, alarm.id, key, at) : null;
  const standing = recorded
    ? { state: recorded.to, severity: recorded.toSeverity, since: recorded.at }
    : next
      ? { ...next, since: null }
      : heldSince <= at
        ? { state, severity, since: heldSince }
        : null;
  const explanation = await explain(definition, at);
  return {
    ...{ definition, version, by, since, recorded, explanation },
    standing: existed || recorded ? standing : null,
    existed,
    changedSince: 'code' in explanation || recorded === null ? null : changedCells(recorded, explanation)
  };
}

/** A change of state as it was recorded. */
type Recorded = NonNullable<Why['recorded']>;

/**
 * How many cells of the window that a change was decided on read otherwise now: their samples came later. Null when that cannot be told any more.
 *
 * @param explain what the windows of a definition held at a moment, by what is stored now
 */
export async function cellsChangedSince(
  db: Queryable,
  alarmId: number,
  change: Pick<Recorded, 'at' | 'evidence'>,
  explain: (definition: AlarmDefinition, at: Instant) => Promise<Explanation | Problem>
): Promise<number | null> {
  const version = await versionOfAlarm(db, alarmId, change.evidence.alarmVersion);
  if (version === null) return null;
  const explanation = await explain(version.definition, change.at);
  return 'code' in explanation ? null : changedCells(change, explanation);
}

function changedCells(
  { at, evidence }: Pick<Recorded, 'at' | 'evidence'>,
  { until, levels }: Explanation
): number | null {
  const level = levels.find((one) => one.level.severity === evidence.level.severity);
  if (at !== until || !level) return null;
  const count = Math.min(evidence.codes.length, level.codes.length);
  const [then, now] = [evidence.codes.slice(-count), level.codes.slice(-count)];
  return [...then].filter((code, i) => Number(code) !== countedAs(Number(now[i]), evidence.whenMissing)).length;
}
