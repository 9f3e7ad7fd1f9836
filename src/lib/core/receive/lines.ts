import { formOf } from '../words/count';
import { Refusal } from '../problem/problem';
import { z } from 'zod';
import { longestLine, meaningOf, mostFaultyLines, readExposition } from '../openmetrics';
import { instantFromText } from '../time';
import { readingAt, refusals, SeriesGatherer, type Received } from './received';

/** One sample as newline-delimited JSON and CSV give it. */
const sampleSchema = z.strictObject({
  metric: z.string().min(1).max(200),
  /** RFC 3339, or milliseconds since the epoch. */
  at: z.union([z.string(), z.number()]).transform((value, context) => {
    const at = momentOf(value);
    if (typeof at === 'number') return at;
    context.addIssue({ code: 'custom', message: at });
    return 0;
  }),
  value: z.number({ error: 'give a finite number' }),
  resource: z.string().min(1).max(200).default('unnamed'),
  unit: z.string().max(63).default('1'),
  kind: z.enum(['gauge', 'delta', 'cumulative']).default('gauge'),
  labels: z.record(z.string().max(200), z.string().max(1000)).default({})
});

/** Numbers up to this are seconds: as milliseconds they would lie in the first months of 1970. */
const lastSeconds = 10_000_000_000;

/** @returns the instant, or in words why there is none */
function momentOf(value: string | number): number | string {
  const isNumber = typeof value === 'number' || /^[+-]?\d+(\.\d*)?$/.test(value);
  if (!isNumber)
    try {
      return instantFromText(value);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      return 'give a date and time with a zone, or milliseconds since the epoch';
    }
  const at = Number(value);
  if (at >= 100_000_000 && at < lastSeconds)
    return `${value} looks like seconds since the epoch; give milliseconds: ${Math.round(at * 1000)}`;
  return Number.isInteger(at) && at > 0 ? at : 'give a date and time with a zone, or milliseconds since the epoch';
}

/** Takes one sample; what is wrong with it is reported with its line. */
function take(sample: unknown, line: number, gather: SeriesGatherer): void {
  const read = sampleSchema.safeParse(sample);
  if (!read.success) {
    const issue = read.error.issues[0];
    gather.refuse(
      1,
      refusals.unreadable,
      `Line ${line}, ${issue?.path.join('.').slice(0, 200) || 'the sample'}: ${issue?.message.slice(0, 200) ?? 'cannot be read'}.`
    );
    return;
  }
  const { metric, at, value, resource, unit, kind, labels } = read.data;
  gather.add(
    {
      resource: { id: resource, name: resource, tags: {} },
      metric: { name: metric, description: '', unit, kind },
      labels,
      weight: 1
    },
    readingAt(at, value),
    `Line ${line}`
  );
}

/**
 * Reads newline-delimited JSON, one sample a line. A line that cannot be read is left out.
 *
 * @throws ReceiveFault when too many lines cannot be read
 * @example readJsonLines('{"metric":"queue.depth","at":"2026-05-04T08:00:00Z","value":3}', now).series.length // 1
 */
export function readJsonLines(text: string, now: number): Received {
  const gather = new SeriesGatherer(now);
  for (const [index, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    if (line.length > longestLine) {
      gather.refuse(1, refusals.unreadable, `Line ${index + 1} has more than ${longestLine} characters.`);
      continue;
    }
    try {
      take(JSON.parse(line), index + 1, gather);
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      gather.refuse(1, refusals.unreadable, `Line ${index + 1}: it is no JSON.`);
    }
  }
  return gather.result();
}

/** The most columns of a table. */
export const mostColumns = 200;

/** A number as people and programs write it in decimal. */
const decimal = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;

/**
 * Reads records of a table with a header: columns metric, at, value, and if wanted resource, unit, kind, and a column `label.x` for each label x.
 *
 * @param records the header first, each with the line it stands on
 * @throws ReceiveFault when the header cannot be used, or too many lines cannot be read
 * @example readRecords([{ line: 1, cells: ['metric', 'at', 'value'] }, { line: 2, cells: ['m', '2026-05-04T08:00:00Z', '3'] }], now).series.length // 1
 */
export function readRecords(
  records: Iterable<{ readonly line: number; readonly cells: readonly string[] }>,
  now: number
): Received {
  const gather = new SeriesGatherer(now);
  let names: readonly string[] | null = null;
  for (const { line, cells } of records) {
    if (names === null) names = headerOf(line, cells);
    else take(sampleOf(names, cells), line, gather);
  }
  return gather.result();
}

function headerOf(line: number, cells: readonly string[]): readonly string[] {
  const names = cells.map((name) => name.trim());
  const refuse = (why: string): never => {
    throw new Refusal(
      'unreadable',
      `Line ${line}: ${why}.`,
      'Send CSV (RFC 4180) with a header: metric, at, value, and if wanted resource, unit, kind, label.name.'
    );
  };
  if (names.length > mostColumns) refuse(`there are ${names.length} columns, more than ${mostColumns}`);
  const missing = ['metric', 'at', 'value'].filter((name) => !names.includes(name));
  if (missing.length > 0)
    refuse(
      `the ${formOf(missing.length, 'column')} ${missing.join(', ')} ${formOf(missing.length, 'is', 'are')} missing`
    );
  const twice = names.find((name, index) => names.indexOf(name) !== index);
  if (twice !== undefined) refuse(`the column ${twice.slice(0, 60)} is there twice`);
  return names;
}

function sampleOf(names: readonly string[], cells: readonly string[]): Record<string, unknown> {
  const sample = new Map<string, unknown>();
  const labels = new Map<string, string>();
  for (const [i, name] of names.entries()) {
    const cell = cells[i] ?? '';
    if (name.startsWith('label.')) {
      if (cell !== '') labels.set(name.slice(6), cell);
    } else if (name === 'value') sample.set(name, decimal.test(cell.trim()) ? Number(cell) : NaN);
    else if (cell !== '') sample.set(name, cell);
  }
  return { ...Object.fromEntries(sample), labels: Object.fromEntries(labels) };
}

/**
 * Reads OpenMetrics text. Samples without a time are of `now`; the label `resource`, or else `instance` or `job`, names the resource.
 *
 * @throws ReceiveFault when too many lines cannot be read
 * @example readOpenMetrics('up 1\n# EOF\n', now).series[0].metric.name // 'up'
 */
export function readOpenMetrics(text: string, now: number): Received {
  const gather = new SeriesGatherer(now);
  const { samples, faults, faulty, complete } = readExposition(text);
  for (const { line, reason, text: at } of faults)
    gather.refuse(1, refusals.unreadable, `Line ${line} ${reason}: ${at}`);
  if (faulty >= mostFaultyLines)
    throw new Refusal(
      'unreadable',
      `More than ${mostFaultyLines} lines cannot be read, so nothing was stored. Line ${faults[0]?.line ?? 1} ${faults[0]?.reason ?? ''}.`,
      'Check the format, and send it again.'
    );
  if (faulty > faults.length)
    gather.refuse(faulty - faults.length, refusals.unreadable, `${faulty - faults.length} more lines cannot be read.`);
  if (!complete) gather.note('The end (# EOF) is missing, so a part may be, too. What was read was stored.');
  for (const sample of samples) {
    const meaning = meaningOf(sample);
    if (meaning === null) continue;
    const { resource, instance, job, ...labels } = sample.labels;
    const name = resource || instance || job || 'unnamed';
    gather.add(
      {
        resource: { id: name, name, tags: {} },
        metric: {
          name: meaning.metric,
          description: sample.family.help.slice(0, 1000),
          unit: meaning.unit,
          kind: meaning.kind
        },
        labels,
        weight: 1
      },
      readingAt(sample.at ?? now, sample.value),
      `Line ${sample.line}`
    );
  }
  return gather.result();
}
