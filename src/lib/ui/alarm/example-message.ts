import { gravestLevel, type AlarmDefinition, type Severity } from '$lib/core/alarm';
import { incidentMessage, type Message } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';

/** What an example of an alarm's message is made of, besides the alarm. */
export interface Example {
  readonly subject: string;
  readonly what: string;
  readonly unit: string;
  /** The worst time that it would have been raised; none when it would not have been. */
  readonly worst: { readonly from: Instant; readonly severity: Severity; readonly peak: number | null } | undefined;
  readonly now: Instant;
}

/**
 * The message of the worst time that an alarm would have been raised, as it reads now: a time of yesterday names its day. Without one, it says the limit itself.
 *
 * @example exampleMessage(alarm, { subject: 'tariff-worker-2', what: 'processor use', unit: '%', worst, now }).subject
 * // 'MAJOR tariff-worker-2: processor use 73.5 % (limit 71 %) since Thu 07:38'
 */
export function exampleMessage(
  { name, rule }: Pick<AlarmDefinition, 'name' | 'rule'>,
  { subject, what, unit, worst, now }: Example
): Message {
  const level = rule.levels.find(({ severity }) => severity === worst?.severity) ?? gravestLevel(rule);
  const { severity, condition } = level;
  const facts = {
    alarm: name,
    severity,
    subject,
    account: '',
    region: '',
    what,
    unit,
    condition,
    openedAt: worst?.from ?? now,
    writtenAt: now,
    closedAt: null,
    value: worst?.peak ?? ('limit' in condition ? condition.limit : NaN),
    peak: NaN,
    link: ''
  };
  return incidentMessage(facts, 'UTC');
}
