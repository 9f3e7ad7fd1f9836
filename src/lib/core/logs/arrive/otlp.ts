import { Refusal } from '../../problem/problem';
import { doubleFrom, fieldsOf, integerFrom, listFrom, textFrom, type Fields } from '../../receive/otlp-values';
import { valueText, type LogFields, type LogValue, type Origin } from '../line';
import { severityFromText } from '../severity';
import { lineFaults, LineGatherer, lineLimits, type Arrived } from './gather';

/**
 * The lines of an OTLP logs request (opentelemetry.proto.collector.logs.v1), given as JSON has it or as read from protobuf. A record that cannot be read is refused alone.
 *
 * @param body anything; what is not of the expected form is refused where it stands
 * @param ids how trace and span ids are written: as JSON has them, or as bytes are read from protobuf
 * @throws Refusal when the body is no request, or too much of it cannot be read
 * @example readOtlpLogs(body, now, 'hex').batches[0].lines.length
 */
export function readOtlpLogs(body: unknown, now: number, ids: 'hex' | 'base64'): Arrived {
  const gather = new LineGatherer(now, valueText);
  const parts = listFrom(fieldsOf(body)?.get('resourceLogs'));
  if (parts === null)
    throw new Refusal(
      'unreadable',
      'The request cannot be read: resourceLogs is no list.',
      'Send an OTLP logs request as its specification defines it.'
    );
  for (const part of parts.map(fieldsOf)) {
    const scopes = listFrom(part?.get('scopeLogs'));
    if (part === null || scopes === null) {
      gather.refuse(lineFaults.unreadable, 'A part of resourceLogs cannot be read.');
      continue;
    }
    const resource = fieldsOf(part.get('resource'));
    const ofResource = {
      resource: attributesOf(resource?.get('attributes')) ?? {},
      resourceDropped: countOf(resource?.get('droppedAttributesCount')),
      resourceSchema: short(part.get('schemaUrl'))
    };
    for (const inScope of scopes.map(fieldsOf)) {
      const records = listFrom(inScope?.get('logRecords'));
      if (inScope === null || records === null) {
        gather.refuse(lineFaults.unreadable, 'A part of scopeLogs cannot be read.');
        continue;
      }
      const scope = fieldsOf(inScope.get('scope'));
      const origin: Origin = {
        ...ofResource,
        scope: {
          name: short(scope?.get('name')),
          version: short(scope?.get('version')),
          fields: attributesOf(scope?.get('attributes')) ?? {},
          dropped: countOf(scope?.get('droppedAttributesCount'))
        },
        scopeSchema: short(inScope.get('schemaUrl'))
      };
      for (const [index, record] of records.entries())
        readRecord(fieldsOf(record), origin, ids, `Record ${index + 1}`, gather);
    }
  }
  return gather.result();
}

function readRecord(
  record: Fields | null,
  origin: Origin,
  ids: 'hex' | 'base64',
  where: string,
  gather: LineGatherer
): void {
  const fields = record === null ? null : attributesOf(record.get('attributes'));
  const body = record === null ? undefined : valueFrom(record.get('body') ?? {});
  const [time, observed] = [record?.get('timeUnixNano'), record?.get('observedTimeUnixNano')].map(nanosFrom);
  if (record === null || fields === null || body === undefined || time === undefined || observed === undefined) {
    gather.refuse(lineFaults.unreadable, `${where} cannot be read.`);
    return;
  }
  const severityText = textFrom(record.get('severityText')) ?? '';
  const severity = Number(integerFrom(record.get('severityNumber') ?? 0) ?? 0n);
  gather.add(
    origin,
    {
      ...{ time, observed, severityText, body, fields },
      // What says its severity in words only is found by it all the same.
      severity: severity === 0 ? (severityFromText(severityText) ?? 0) : severity,
      fieldsDropped: countOf(record.get('droppedAttributesCount')),
      trace: idFrom(record.get('traceId'), 32, ids),
      span: idFrom(record.get('spanId'), 16, ids),
      flags: countOf(record.get('flags')),
      event: textFrom(record.get('eventName')) ?? ''
    },
    where
  );
}

const short = (value: unknown): string => (textFrom(value) ?? '').slice(0, lineLimits.name).toWellFormed();

const countOf = (value: unknown): number => {
  const count = integerFrom(value ?? 0);
  return count === null || count < 0n || count > 0xffffffffn ? 0 : Number(count);
};

/** A time in nanoseconds; null for none, undefined for what is no time. */
function nanosFrom(value: unknown): bigint | null | undefined {
  const nanos = integerFrom(value ?? 0);
  if (nanos === null || nanos < 0n) return undefined;
  return nanos === 0n ? null : nanos;
}

/** An id in hexadecimal, in small letters; empty where there is none, where it says so by zeros, and for what is none. */
function idFrom(value: unknown, digits: number, ids: 'hex' | 'base64'): string {
  const text = textFrom(value) ?? '';
  const hex = ids === 'hex' ? text.toLowerCase() : (hexOf(text) ?? '');
  return hex.length === digits && /^[0-9a-f]+$/.test(hex) && /[^0]/.test(hex) ? hex : '';
}

function hexOf(text: string): string | null {
  if (text.length > 64 || !/^(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}(?:==)?|[A-Za-z0-9+/]{3}=?)?$/.test(text))
    return null;
  return Array.from(bytesOf(text), (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** @throws DOMException for what is no base64 */
const bytesOf = (text: string): Uint8Array => Uint8Array.from(atob(text), (char) => char.charCodeAt(0));

/** Attributes as fields; null where they cannot be read. Of a name that is there twice, the last counts. */
function attributesOf(attributes: unknown, depth = 0): LogFields | null {
  const list = listFrom(attributes ?? []);
  if (list === null) return null;
  const entries: [string, LogValue][] = [];
  for (const attribute of list.slice(0, 20_000).map(fieldsOf)) {
    const name = textFrom(attribute?.get('key') ?? '');
    const value = attribute === null ? undefined : valueFrom(attribute.get('value') ?? {}, depth);
    if (name === null || value === undefined) return null;
    if (name !== '') entries.push([name.slice(0, lineLimits.name).toWellFormed(), value]);
  }
  return Object.fromEntries(entries);
}

/** A value (AnyValue); undefined for what is none. What lies too deep, or is too much of it, is left out. */
function valueFrom(value: unknown, depth = 0): LogValue | undefined {
  const fields = fieldsOf(value);
  if (fields === null) return undefined;
  if (depth > lineLimits.depth) return null;
  const isGiven = (name: string): boolean => (fields.get(name) ?? null) !== null;
  if (isGiven('stringValue')) {
    const text = textFrom(fields.get('stringValue'));
    // The body may be long: its text is cut where all is put together.
    return text === null
      ? undefined
      : text.slice(0, depth === 0 ? 2 * lineLimits.text : lineLimits.value).toWellFormed();
  }
  if (isGiven('boolValue'))
    return typeof fields.get('boolValue') === 'boolean' ? fields.get('boolValue') === true : undefined;
  if (isGiven('intValue')) {
    const whole = integerFrom(fields.get('intValue'));
    return whole === null || BigInt.asIntN(64, whole) !== whole ? undefined : whole;
  }
  if (isGiven('doubleValue')) return doubleFrom(fields.get('doubleValue')) ?? undefined;
  if (isGiven('bytesValue')) {
    const text = textFrom(fields.get('bytesValue')) ?? '-';
    return /^[A-Za-z0-9+/]*={0,2}$/.test(text) && text.length % 4 === 0
      ? bytesOf(text.slice(0, lineLimits.value))
      : undefined;
  }
  if (isGiven('arrayValue')) {
    const list = listFrom(fieldsOf(fields.get('arrayValue'))?.get('values') ?? []);
    const values = list?.slice(0, lineLimits.values).map((one) => valueFrom(one, depth + 1));
    return values === undefined || values.includes(undefined) ? undefined : (values as LogValue[]);
  }
  if (isGiven('kvlistValue'))
    return attributesOf(fieldsOf(fields.get('kvlistValue'))?.get('values'), depth + 1) ?? undefined;
  return null;
}
