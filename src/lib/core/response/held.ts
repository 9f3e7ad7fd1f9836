import { severityBalls, type Severity } from '../alarm/severity';
import type { Instant } from '../time';

/** An incident's severity from a moment on; null from when it is clear. */
export interface SeverityChange {
  readonly at: Instant;
  readonly severity: Severity | null;
}

/**
 * Since when an incident has been of a severity or graver without a pause; null when it is not now.
 *
 * @param changes in order
 * @example gravelySince([{ at: 1, severity: 'minor' }, { at: 5, severity: 'critical' }], 'major') // 5
 */
export function gravelySince(changes: readonly SeverityChange[], from: Severity): Instant | null {
  let since: Instant | null = null;
  for (const { at, severity } of changes)
    if (severity === null || severityBalls(severity) < severityBalls(from)) since = null;
    else since ??= at;
  return since;
}
