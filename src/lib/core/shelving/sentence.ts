import { conditionText, type RouteNames } from '../notify/route';
import type { Scope } from './shelving';

/**
 * What is silenced, in words.
 *
 * @param alarmOf the name of an alarm
 * @example scopeText(scope, names, alarmOf) // 'any severity on Gateways'
 */
export function scopeText(
  { alarmIds, resources, ...when }: Scope,
  names: Pick<RouteNames, 'service' | 'group'>,
  alarmOf: (id: number) => string
): string {
  const rest = conditionText({ ...when, times: null }, names);
  const parts = [
    ...(alarmIds.length > 0 ? [alarmIds.map((id) => `“${alarmOf(id)}”`).join(' and ')] : []),
    ...(resources.length > 0 ? [`on ${resources.join(' and ')}`] : [])
  ];
  return parts.length === 0 ? rest : [...parts, ...(rest === 'every incident' ? [] : [rest])].join(', ');
}
