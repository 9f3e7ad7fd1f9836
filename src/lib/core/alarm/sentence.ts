import { spokenDuration } from '../time';
import { signalSentence, stepOf, type MetricWords } from '../signal';
import { unit } from '../units';
import type { AlarmDefinition } from './schema';

/**
 * An alarm in one sentence.
 *
 * @example alarmSentence(alarm, metric)
 * // 'Raise major when average processor use of each machine is above 80 % in 3 of the last 5 windows of 1 minute.'
 */
export function alarmSentence({ signal, rule, severity }: AlarmDefinition, metric: MetricWords): string {
  const [what = ''] = signalSentence(signal, metric).split(', every ');
  const { condition, window } = rule;
  const windows = window.of === 1 ? 'the last window' : `${window.needs} of the last ${window.of} windows`;
  const threshold = `${condition.threshold} ${unit(metric.unit).text}`.trim();
  return `Raise ${severity} when ${what.charAt(0).toLowerCase()}${what.slice(1)} is ${condition.is} ${threshold} in ${windows} of ${spokenDuration(stepOf(signal))}.`;
}
