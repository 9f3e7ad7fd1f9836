/** Severities of X.733, mildest first: the position + 1 is the number of balls on the hoist. */
export const severities = ['warning', 'minor', 'major', 'critical'] as const;
export type Severity = (typeof severities)[number];

/** How many balls the hoist of a severity has. @example severityBalls('major') // 3 */
export const severityBalls = (severity: Severity): number => severities.indexOf(severity) + 1;

/** The graver of two; null counts as none. @example graver('minor', 'major') // 'major' */
export function graver(a: Severity | null, b: Severity | null): Severity | null {
  if (a === null) return b;
  if (b === null) return a;
  return severityBalls(a) >= severityBalls(b) ? a : b;
}
