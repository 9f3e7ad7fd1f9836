import type { AlarmDefinition } from '../schema';
import type { Check, PreflightCheck, PreflightFacts } from './check';
import { bandCheck, calmCheck, thresholdCheck } from './limits';
import { confirmedCheck, notifiedCheck } from './notified';
import { circleCheck } from './parts';
import { batchesCheck, delayCheck, timingCheck, windowCheck } from './timing';
import {
  collectedCheck,
  duplicateCheck,
  matchesCheck,
  missingCheck,
  peaksCheck,
  signalCheck,
  unitCheck
} from './watched';

export { combinedIds } from './parts';
export type { AlarmReach, CheckName, Elsewhere, Fix, PreflightCheck, PreflightFacts, PreflightMetric } from './check';

/** The worst first: of what is amiss, people read the first. */
const checks: readonly Check[] = [
  circleCheck,
  notifiedCheck,
  confirmedCheck,
  matchesCheck,
  collectedCheck,
  signalCheck,
  unitCheck,
  windowCheck,
  timingCheck,
  delayCheck,
  batchesCheck,
  thresholdCheck,
  calmCheck,
  peaksCheck,
  bandCheck,
  missingCheck,
  duplicateCheck
];

/**
 * The checks an alarm passes before it is trusted, what needs care first; what one click can fix comes with how the alarm would be then.
 *
 * @example preflight(alarm, facts).filter(({ passed }) => !passed).map(({ says }) => says)
 * // ['Nobody would be notified: no route takes what it raises.']
 */
export function preflight(alarm: AlarmDefinition, facts: PreflightFacts): PreflightCheck[] {
  const all = checks.flatMap((check) => check(alarm, facts));
  return [...all.filter(({ passed }) => !passed), ...all.filter(({ passed }) => passed)];
}
