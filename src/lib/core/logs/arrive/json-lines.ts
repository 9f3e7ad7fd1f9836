import { instantFromText } from '../../time';
import { noOrigin, valueText, type LogFields, type LogValue, type Origin } from '../line';
import { severityFromText } from '../severity';
import { lineFaults, LineGatherer, lineLimits, plainDraft, type Arrived, type LineDraft } from './gather';

/** Names under which programs write what every line has, the most usual first. */
const names = {
  time: ['time', 'timestamp', 'ts', '@timestamp'],
  severity: ['severity', 'level', 'lvl'],
  text: ['message', 'msg', 'text', 'body'],
  trace: ['trace_id', 'traceId', 'trace'],
  span: ['span_id', 'spanId', 'span']
} as const;

/** Fields that say what wrote a line: they are of its origin, as OpenTelemetry names them. */
const ofOrigin = /^(service|host|container|node|cluster|cloud|k8s)\./;
const isOfOrigin = (name: string): boolean => ofOrigin.test(name);

/**
 * Lines of newline-delimited JSON: each an object with its text, and where it says so its time, severity, trace and span. All else are its fields.
 *
 * @throws Refusal when nothing of it can be read
 * @example readJsonLogs('{"level":"warn","msg":"retry 1 of 3","attempt":1}', now).batches[0].lines[0].severity // 13
 */
export function readJsonLogs(text: string, now: number): Arrived {
  const gather = new LineGatherer(now, valueText);
  const origins = new Map<string, Origin>();
  for (const [index, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    const where = `Line ${index + 1}`;
    const read = objectOf(line);
    if (read === null) {
      gather.refuse(lineFaults.unreadable, `${where} is no JSON object.`);
      continue;
    }
    const draft = draftOf(read);
    if (draft === null) {
      gather.refuse(lineFaults.badTime, `${where}: its time cannot be read.`);
      continue;
    }
    const own = Object.entries(draft.fields);
    const resource = Object.fromEntries(own.filter(([name]) => isOfOrigin(name)));
    const key = JSON.stringify(Object.entries(resource).map(([name, value]) => [name, valueText(value)]));
    let origin = origins.get(key);
    if (origin === undefined) origins.set(key, (origin = { ...noOrigin, resource }));
    gather.add(origin, { ...draft, fields: Object.fromEntries(own.filter(([name]) => !isOfOrigin(name))) }, where);
  }
  return gather.result();
}

function objectOf(line: string): Readonly<Record<string, unknown>> | null {
  try {
    const read: unknown = JSON.parse(line);
    return typeof read === 'object' && read !== null && !Array.isArray(read)
      ? (read as Readonly<Record<string, unknown>>)
      : null;
  } catch (error) {
    // A line that is nested too deep for the reader is as unreadable as one that is no JSON.
    if (error instanceof SyntaxError || error instanceof RangeError) return null;
    throw error;
  }
}

/** @returns null for a line of which the time cannot be read */
function draftOf(read: Readonly<Record<string, unknown>>): LineDraft | null {
  const taken = new Set<string>();
  const take = (among: readonly string[]): unknown => {
    const name = among.find((one) => Object.hasOwn(read, one) && (read[one] ?? null) !== null);
    if (name === undefined) return null;
    taken.add(name);
    return read[name];
  };
  const time = timeOf(take(names.time));
  if (time === undefined) return null;
  const severity = take(names.severity);
  const body = take(names.text);
  const [trace, span] = [take(names.trace), take(names.span)].map((id) =>
    typeof id === 'string' ? id.toLowerCase() : ''
  );
  const fields: LogFields = Object.fromEntries(
    Object.entries(read)
      .filter(([name]) => !taken.has(name) && name !== '')
      .map(([name, value]) => [name.slice(0, lineLimits.name).toWellFormed(), valueFrom(value)])
  );
  return {
    ...plainDraft,
    ...{ time, fields },
    severity:
      typeof severity === 'number' ? severity : typeof severity === 'string' ? (severityFromText(severity) ?? 0) : 0,
    severityText: typeof severity === 'string' ? severity : '',
    // A line that says nothing under such a name says what its fields say.
    body: body === null ? valueText(valueFrom(read)) : valueFrom(body, 0, 2 * lineLimits.text),
    trace: /^[0-9a-f]{32}$/.test(trace ?? '') ? (trace ?? '') : '',
    span: /^[0-9a-f]{16}$/.test(span ?? '') ? (span ?? '') : ''
  };
}

/** A time as text (ISO 8601) or as a number of seconds, milliseconds, microseconds or nanoseconds since 1970; null for none, undefined for what is no time. */
function timeOf(value: unknown): bigint | null | undefined {
  if (value === null) return null;
  if (typeof value === 'number' && Number.isFinite(value) && value > 0) {
    // By its size: each unit has its own span of years around now.
    const scale = value < 1e11 ? 1e9 : value < 1e14 ? 1e6 : value < 1e17 ? 1e3 : 1;
    return BigInt(Math.trunc(value)) * BigInt(scale) + BigInt(Math.round((value % 1) * scale));
  }
  return typeof value === 'string' ? nanosFromText(value) : undefined;
}

/** A time as text (ISO 8601) in nanoseconds since 1970; undefined for what is no time. */
export function nanosFromText(value: string): bigint | undefined {
  const [, whole = value, fraction = '', zone = ''] =
    /^(.+T\d\d:\d\d:\d\d)[.,](\d{1,9})(Z|[+-]\d\d:?\d\d)$/.exec(value) ?? [];
  try {
    const at = instantFromText(fraction === '' ? value : whole + zone);
    return BigInt(at) * 1_000_000n + BigInt(fraction.padEnd(9, '0'));
  } catch {
    return undefined;
  }
}

/** A value of JSON: whole numbers that fit are whole, others have a fraction. */
function valueFrom(value: unknown, depth = 0, longest: number = lineLimits.value): LogValue {
  if (depth > lineLimits.depth) return null;
  if (typeof value === 'string') return value.slice(0, longest).toWellFormed();
  if (typeof value === 'number') return Number.isSafeInteger(value) && !Object.is(value, -0) ? BigInt(value) : value;
  if (typeof value === 'boolean' || value === null) return value;
  if (Array.isArray(value)) return value.slice(0, lineLimits.values).map((one) => valueFrom(one, depth + 1));
  return Object.fromEntries(
    Object.entries(value as object)
      .slice(0, lineLimits.values)
      .map(([name, one]) => [name.slice(0, lineLimits.name).toWellFormed(), valueFrom(one, depth + 1)])
  );
}
