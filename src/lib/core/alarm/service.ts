import { asksFor, picksOf } from '../signal';
import { signalsOfAlarm, type AlarmDefinition } from './schema';

/**
 * The services of the metrics that an alarm watches.
 *
 * @param metrics all that there are
 * @example servicesOfAlarm(alarm, [{ name: 'machine.processor.use', service: 'machines' }]) // ['machines']
 */
export function servicesOfAlarm(
  alarm: Pick<AlarmDefinition, 'signal' | 'combines'>,
  metrics: readonly { readonly name: string; readonly service: string }[]
): string[] {
  const picked = signalsOfAlarm(alarm).flatMap(picksOf);
  return [
    ...new Set(
      metrics.filter(({ name }) => picked.some(({ metric }) => asksFor(metric, name))).map(({ service }) => service)
    )
  ];
}

/** The service that an alarm watches; empty for none or several. @example serviceOfAlarm(alarm, metrics) // 'machines' */
export function serviceOfAlarm(...asked: Parameters<typeof servicesOfAlarm>): string {
  const [service, ...others] = servicesOfAlarm(...asked);
  return service === undefined || others.length > 0 ? '' : service;
}
