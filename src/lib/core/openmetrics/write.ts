/** A family of metrics to be written. */
export interface WrittenFamily {
  /** Without the suffix of counters; ends with its unit where it has one. */
  readonly name: string;
  readonly type: 'gauge' | 'counter' | 'info';
  /** As OpenMetrics names units, such as `seconds`; empty for none. */
  readonly unit: string;
  readonly help: string;
  readonly samples: readonly { readonly labels: Readonly<Record<string, string>>; readonly value: number }[];
}

/** The media type of what {@link writeExposition} writes. */
export const expositionType = 'application/openmetrics-text; version=1.0.0; charset=utf-8';

/**
 * Writes families as OpenMetrics text (OpenMetrics 1.0, section 3); families without samples are left out.
 *
 * @throws RangeError for a name that is none, or one that does not end with its unit
 * @example writeExposition([{ name: 'up', type: 'gauge', unit: '', help: 'Up.', samples: [{ labels: {}, value: 1 }] }]) // '# TYPE up gauge\n# HELP up Up.\nup 1\n# EOF\n'
 */
export function writeExposition(families: readonly WrittenFamily[]): string {
  const lines: string[] = [];
  for (const { name, type, unit, help, samples } of families) {
    if (samples.length === 0) continue;
    if (!/^[a-zA-Z_:][a-zA-Z0-9_:]*$/.test(name)) throw new RangeError(`writeExposition: ${name} is no name`);
    if (unit !== '' && !name.endsWith(`_${unit}`))
      throw new RangeError(`writeExposition: ${name} does not end with its unit ${unit}`);
    lines.push(`# TYPE ${name} ${type}`);
    if (unit !== '') lines.push(`# UNIT ${name} ${unit}`);
    lines.push(`# HELP ${name} ${escaped(help)}`);
    const suffix = { gauge: '', counter: '_total', info: '_info' }[type];
    for (const { labels, value } of samples) lines.push(`${name}${suffix}${labelsText(labels)} ${numberText(value)}`);
  }
  return `${[...lines, '# EOF'].join('\n')}\n`;
}

function labelsText(labels: Readonly<Record<string, string>>): string {
  const pairs = Object.entries(labels).map(([name, value]) => `${name}="${escaped(value)}"`);
  return pairs.length === 0 ? '' : `{${pairs.join(',')}}`;
}

const escaped = (text: string): string => text.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('"', '\\"');

const numberText = (value: number): string =>
  Number.isNaN(value) ? 'NaN' : value === Infinity ? '+Inf' : value === -Infinity ? '-Inf' : String(value);
