import { overlap, type Instant, type Range } from '$lib/core/time';
import { limitText } from '$lib/core/units';
import { metricOf, type BoardAlarm, type BoardContext } from '../data/board-context.svelte';

/** The alarms that watch nothing but a metric. */
const alarmsOn = ({ alarms }: BoardContext['things'], metric: string | undefined): readonly BoardAlarm[] =>
  metric === undefined ? [] : alarms.filter((alarm) => alarm.metric === metric);

/** The thresholds of the alarms on a metric, as lines of a chart. */
export const thresholdsOn = ({ things, metrics }: Pick<BoardContext, 'things' | 'metrics'>, metric?: string) =>
  alarmsOn(things, metric).flatMap(({ limits }) =>
    limits.map(({ value, severity }) => ({
      value,
      severity,
      text: `${limitText(value, metricOf(metrics, metric ?? '')?.unit ?? '1')} ${severity}`
    }))
  );

/** What the alarms on a metric raised within a range. */
export function raisedWithin({ things }: Pick<BoardContext, 'things'>, metric: string | undefined, range: Range) {
  const ids = new Set(alarmsOn(things, metric).map(({ id }) => id));
  return things.incidents
    .filter(
      ({ alarmId, openedAt, closedAt }) =>
        alarmId !== null &&
        ids.has(alarmId) &&
        overlap(range, { from: openedAt, to: (closedAt ?? Math.max(range.to, openedAt + 1)) as Instant }) !== null
    )
    .map(({ openedAt, closedAt, severity }) => ({ from: openedAt, to: closedAt, severity }));
}
