import { asksFor, linesOf, picksOf, servicesOfLines } from '../signal';
import { signalsOfAlarm, type AlarmDefinition } from './schema';

/**
 * The services of the metrics and lines that an alarm watches.
 *
 * @param metrics all that there are
 * @example servicesOfAlarm(alarm, [{ name: 'machine.processor.use', service: 'machines' }]) // ['machines']
 */
export function servicesOfAlarm(
  alarm: Pick<AlarmDefinition, 'signal' | 'combines'>,
  metrics: readonly { readonly name: string; readonly service: string }[]
): string[] {
  const signals = signalsOfAlarm(alarm);
  const picked = signals.flatMap(picksOf);
  const ofMetrics = metrics.filter(({ name }) => picked.some(({ metric }) => asksFor(metric, name)));
  return [
    ...new Set([...ofMetrics.map(({ service }) => service), ...signals.flatMap(linesOf).flatMap(servicesOfLines)])
  ];
}

/** The service that an alarm watches; empty for none or several. @example serviceOfAlarm(alarm, metrics) // 'machines' */
export function serviceOfAlarm(...asked: Parameters<typeof servicesOfAlarm>): string {
  const [service, ...others] = servicesOfAlarm(...asked);
  return service === undefined || others.length > 0 ? '' : service;
}
