import { spokenDuration } from '../time';
import { statisticOf } from '../series';
import { unit } from '../units';
import { stepOf, type Signal } from './schema';

/** What a sentence needs to know of a metric. */
export interface MetricWords {
  readonly title: string;
  readonly unit: string;
  /** The resource type in the singular, such as `machine`. */
  readonly resourceType: string;
}

/**
 * A signal in one sentence, without its final stop.
 *
 * @example signalSentence(signal, { title: 'Processor use', unit: '%', resourceType: 'machine' })
 * // 'Average processor use of each machine in corallo-prod, every 1 minute, in %'
 */
export function signalSentence(signal: Signal, metric: MetricWords): string {
  const conditions = signal.where.map(({ label, is }) => {
    const listed = is.join(' or ');
    return label === 'account' || label === 'region' ? `in ${listed}` : `where ${label} is ${listed}`;
  });
  const { text } = unit(metric.unit);
  const places = conditions.length > 0 ? ` ${conditions.join(', ')}` : '';
  return `${capital(statisticOf(signal.statistic, metric.title.toLowerCase()))} of each ${metric.resourceType}${places}, every ${spokenDuration(stepOf(signal))}${text && `, in ${text}`}`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
