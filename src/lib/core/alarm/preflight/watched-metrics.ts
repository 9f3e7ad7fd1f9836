import { asksFor, picksOf } from '../../signal';
import { duration, type Duration } from '../../time';
import { signalsOfAlarm, type AlarmDefinition } from '../schema';
import { watchedUnit } from '../sentence';
import type { PreflightFacts, PreflightMetric } from './check';

/** The metrics that an alarm watches. */
export function watchedMetrics(
  alarm: AlarmDefinition,
  { metrics }: Pick<PreflightFacts, 'metrics'>
): PreflightMetric[] {
  const picks = signalsOfAlarm(alarm).flatMap(picksOf);
  return metrics.filter(({ name }) => picks.some(({ metric }) => asksFor(metric, name)));
}

/** The slowest of what an alarm watches. */
export const slowest = (metrics: readonly PreflightMetric[], of: 'samplingMs' | 'delayMs' | 'everyMs'): Duration =>
  duration(metrics.reduce((most, one) => Math.max(most, one[of]), 0));

/** The unit of its numbers: as it was evaluated, else as its metrics say. UCUM code. */
export const unitOfAlarm = (alarm: AlarmDefinition, { metrics, rehearsal }: PreflightFacts): string =>
  rehearsal && rehearsal.series.length > 0
    ? rehearsal.unit
    : watchedUnit(alarm.signal, (name) => metrics.find((metric) => metric.name === name));
