import { z } from 'zod';
import { meaningOf, readExposition } from '../openmetrics';
import { instantFromText } from '../time';
import { readingAt, SeriesGatherer, type Received } from './received';

/** One sample as newline-delimited JSON and CSV give it. */
const sampleSchema = z.strictObject({
  metric: z.string().min(1).max(200),
  /** RFC 3339, or milliseconds since the epoch. */
  at: z.union([z.string(), z.number()]).transform((value, context) => {
    const at = momentOf(value);
    if (at === null)
      context.addIssue({
        code: 'custom',
        message: 'give a date and time with a zone, or milliseconds since the epoch'
      });
    return at ?? 0;
  }),
  value: z.number({ error: 'give a finite number' }),
  resource: z.string().min(1).max(200).default('unnamed'),
  unit: z.string().max(63).default('1'),
  kind: z.enum(['gauge', 'delta', 'cumulative']).default('gauge'),
  labels: z.record(z.string().max(200), z.string().max(1000)).default({})
});

function momentOf(value: string | number): number | null {
  try {
    if (typeof value === 'string' && !/^\d+$/.test(value)) return instantFromText(value);
    const at = Number(value);
    return Number.isInteger(at) && at > 0 && at < 253_402_300_799_999 ? at : null;
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

/** Takes one sample; what is wrong with it is told with its line. */
function take(sample: unknown, line: number, gather: SeriesGatherer): void {
  const read = sampleSchema.safeParse(sample);
  if (!read.success) {
    const issue = read.error.issues[0];
    gather.reject(1, `Line ${line}, ${issue?.path.join('.') || 'the sample'}: ${issue?.message ?? 'cannot be read'}.`);
    return;
  }
  const { metric, at, value, resource, unit, kind, labels } = read.data;
  gather.add(
    {
      resource: { id: resource, name: resource, tags: {} },
      metric: { name: metric, description: '', unit, kind },
      labels
    },
    readingAt(at, value)
  );
}

/**
 * Reads newline-delimited JSON, one sample a line. A line that cannot be read costs itself.
 *
 * @example readJsonLines('{"metric":"queue.depth","at":"2026-05-04T08:00:00Z","value":3}').series.length // 1
 */
export function readJsonLines(text: string): Received {
  const gather = new SeriesGatherer();
  for (const [index, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    try {
      take(JSON.parse(line), index + 1, gather);
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      gather.reject(1, `Line ${index + 1}: it is no JSON.`);
    }
  }
  return gather.result();
}

/**
 * Reads records of a table with a header: columns metric, at, value, and if wanted resource, unit, kind, and a column `label.x` for each label x.
 *
 * @param records the header first, each with the line it stands on
 * @example readRecords([{ line: 1, cells: ['metric', 'at', 'value'] }, { line: 2, cells: ['m', '2026-05-04T08:00:00Z', '3'] }]).series.length // 1
 */
export function readRecords(
  records: readonly { readonly line: number; readonly cells: readonly string[] }[]
): Received {
  const gather = new SeriesGatherer();
  const [header, ...rows] = records;
  const names = header?.cells.map((name) => name.trim()) ?? [];
  const missing = ['metric', 'at', 'value'].filter((name) => !names.includes(name));
  if (missing.length > 0) {
    gather.reject(rows.length, `Line ${header?.line ?? 1}: the column ${missing.join(', ')} is missing.`);
    return gather.result();
  }
  for (const { line, cells } of rows) {
    const sample: Record<string, unknown> = {};
    const labels: Record<string, string> = {};
    for (const [i, name] of names.entries()) {
      const cell = cells[i] ?? '';
      if (name.startsWith('label.')) labels[name.slice(6)] = cell;
      else if (name === 'value') sample[name] = cell.trim() === '' ? NaN : Number(cell);
      else if (cell !== '') sample[name] = cell;
    }
    take(
      { ...sample, labels: Object.fromEntries(Object.entries(labels).filter(([, value]) => value !== '')) },
      line,
      gather
    );
  }
  return gather.result();
}

/**
 * Reads OpenMetrics text. Samples without a time are of `now`; the label `resource`, or else `instance` or `job`, names the resource.
 *
 * @example readOpenMetrics('up 1\n# EOF\n', now).series[0].metric.name // 'up'
 */
export function readOpenMetrics(text: string, now: number): Received {
  const gather = new SeriesGatherer();
  const { samples, faults, complete } = readExposition(text);
  for (const { line, reason, text: at } of faults) gather.reject(1, `Line ${line} ${reason}: ${at}`);
  if (!complete) gather.reject(0, 'The end (# EOF) is missing: a part may be, too. What was read was kept.');
  for (const sample of samples) {
    const meaning = meaningOf(sample);
    if (meaning === null) continue;
    const { resource, instance, job, ...labels } = sample.labels;
    const name = resource ?? instance ?? job ?? 'unnamed';
    if (!Number.isFinite(sample.value)) gather.reject(1, `Line ${sample.line}: ${sample.value} is no finite number.`);
    else
      gather.add(
        {
          resource: { id: name, name, tags: {} },
          metric: { name: meaning.metric, description: sample.family.help, unit: meaning.unit, kind: meaning.kind },
          labels
        },
        readingAt(sample.at ?? now, sample.value)
      );
  }
  return gather.result();
}
