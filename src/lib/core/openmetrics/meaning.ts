import { ratioUnit } from '../units';
import type { ExposedSample, MetricFamily } from './exposition';

/** What an exposed sample means as a metric of ours. */
export interface ExposedMeaning {
  readonly metric: string;
  readonly kind: 'gauge' | 'cumulative';
  readonly unit: string;
}

const units: ReadonlyMap<string, string> = new Map([
  ['bytes', 'By'],
  ['seconds', 's'],
  ['milliseconds', 'ms'],
  ['ratio', ratioUnit],
  ['percent', '%'],
  ['meters', 'm'],
  ['grams', 'g'],
  ['volts', 'V'],
  ['amperes', 'A'],
  ['joules', 'J'],
  ['celsius', 'Cel'],
  ['kelvin', 'K'],
  ['hertz', 'Hz'],
  ['watts', 'W'],
  ['minutes', 'min'],
  ['hours', 'h'],
  ['days', 'd']
]);

/** The UCUM unit of a family: what its `# UNIT` says, else the last word of its name. @example ucumOf({ name: 'x_bytes', unit: '' }) // 'By' */
export function ucumOf({ name, unit }: Pick<MetricFamily, 'name' | 'unit'>): string {
  if (unit !== '') return units.get(unit) ?? `{${unit}}`;
  return units.get(name.split('_').at(-1) ?? '') ?? '1';
}

/**
 * The metric a sample belongs to. A counter is named by its family; parts of histograms and summaries are cumulative counters of their own. Null for what is
 * no number over time: `_created` and `_info`.
 *
 * @example meaningOf(sampleOf('requests_total')) // { metric: 'requests', kind: 'cumulative', unit: '1' }
 */
export function meaningOf({ name, family }: Pick<ExposedSample, 'name' | 'family'>): ExposedMeaning | null {
  if (name.endsWith('_created') && family.type !== 'gauge' && family.type !== 'unknown') return null;
  if (family.type === 'info') return null;
  if (family.type === 'counter') return { metric: family.name, kind: 'cumulative', unit: ucumOf(family) };
  const counts = name !== family.name && (name.endsWith('_bucket') || name.endsWith('_count'));
  const part = family.type === 'histogram' || (family.type === 'summary' && name !== family.name);
  return { metric: name, kind: part ? 'cumulative' : 'gauge', unit: counts ? '1' : ucumOf(family) };
}
