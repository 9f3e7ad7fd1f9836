/**
 * The ranges of OpenTelemetry's severity numbers, the mildest first: each name has four numbers, the first of which it stands for. 0 is a line that says none.
 *
 * Source: OpenTelemetry, Logs Data Model, "Severity Fields".
 */
export const lineSeverities = ['trace', 'debug', 'info', 'warn', 'error', 'fatal'] as const;
export type LineSeverity = (typeof lineSeverities)[number];

/** How many numbers each name has. */
const perName = 4;
export const mostSeverity = lineSeverities.length * perName;

/**
 * The name of a severity number; null for 0 and for what is no such number.
 *
 * @example severityName(17) // 'error'
 */
export const severityName = (severity: number): LineSeverity | null =>
  Number.isInteger(severity) && severity >= 1 && severity <= mostSeverity
    ? (lineSeverities[Math.floor((severity - 1) / perName)] ?? null)
    : null;

/** The number that a name stands for, by itself. @example severityNumber('error') // 17 */
export const severityNumber = (name: LineSeverity): number => lineSeverities.indexOf(name) * perName + 1;

/** Words for severities that programs write, by the number that they stand for. */
const written: ReadonlyMap<string, number> = new Map<string, number>([
  ...lineSeverities.map((name) => [name, severityNumber(name)] as const),
  ['notice', 10],
  ['information', 9],
  ['informational', 9],
  ['warning', 13],
  ['err', 17],
  ['critical', 21],
  ['crit', 21],
  ['alert', 22],
  ['emergency', 24],
  ['emerg', 24],
  ['panic', 24]
]);

/**
 * The severity number of a word as programs write it, in any letter case, with the number behind a name as OpenTelemetry has it.
 *
 * @returns null for a word that stands for none
 * @example severityFromText('WARN2') // 14
 */
export function severityFromText(text: string): number | null {
  const word = text.trim().toLowerCase();
  const known = written.get(word);
  if (known !== undefined) return known;
  const [, name = '', step = ''] = /^([a-z]{4,5})([2-4])$/.exec(word) ?? [];
  const first = lineSeverities.find((one) => one === name);
  return first === undefined ? null : severityNumber(first) + Number(step) - 1;
}

/**
 * The severity number of a syslog severity, 0 (emergency) to 7 (debug).
 *
 * Source: OpenTelemetry, Logs Data Model, "Mapping of SeverityNumber", appendix for syslog.
 *
 * @example severityFromSyslog(4) // 13
 */
export const severityFromSyslog = (severity: number): number => [24, 22, 21, 17, 13, 10, 9, 5][severity] ?? 0;
