import type { Instant } from '../time';
import type { Line, Origin } from './line';
import {
  ByteReader,
  ByteWriter,
  readOrigin,
  readFields,
  readValue,
  writeFields,
  writeOrigin,
  writeValue
} from './segment';

/** The first byte of a batch: how it is written. */
const version = 1;

/** Which of what few lines have a line has, as bits. */
const has = { observed: 1, severityText: 2, body: 4, trace: 8, span: 16, flags: 32, event: 64, dropped: 128 } as const;

/**
 * Lines of one origin as they are journalled: quick to write, and to be written anew when they are sealed.
 *
 * @example decodeBatch(encodeBatch(noOrigin, lines), null) // lines
 */
export function encodeBatch(
  origin: Origin,
  lines: readonly Omit<Line, 'origin' | 'resourceId'>[]
): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter(lines.length * 160 + 64);
  writer.byte(version);
  writeOrigin(writer, origin);
  writer.varint(lines.length);
  let before = 0;
  for (const line of lines) {
    writer.signed(line.at - before);
    before = line.at;
    writer.varint(line.nanos);
    writer.byte(line.severity);
    writer.text(line.text);
    writeFields(writer, line.fields);
    const held =
      (line.observed === null ? 0 : has.observed) |
      (line.severityText === '' ? 0 : has.severityText) |
      (line.body === undefined ? 0 : has.body) |
      (line.trace === '' ? 0 : has.trace) |
      (line.span === '' ? 0 : has.span) |
      (line.flags === 0 ? 0 : has.flags) |
      (line.event === '' ? 0 : has.event) |
      (line.fieldsDropped === 0 ? 0 : has.dropped);
    writer.byte(held);
    if (line.observed !== null) {
      writer.signed(line.observed.at - line.at);
      writer.varint(line.observed.nanos);
    }
    if (line.severityText !== '') writer.text(line.severityText);
    if (line.body !== undefined) writeValue(writer, line.body);
    if (line.trace !== '') writer.text(line.trace);
    if (line.span !== '') writer.text(line.span);
    if (line.flags !== 0) writer.varint(line.flags);
    if (line.event !== '') writer.text(line.event);
    if (line.fieldsDropped !== 0) writer.varint(line.fieldsDropped);
  }
  return writer.bytes();
}

/** @throws RangeError for bytes that are no batch */
export function decodeBatch(bytes: Uint8Array, resourceId: number | null): Line[] {
  const reader = new ByteReader(bytes);
  const known = reader.byte();
  if (known !== version) throw new RangeError(`batch: no version ${known}`);
  const origin = readOrigin(reader);
  const lines: Line[] = [];
  let at = 0;
  // Thousands of lines a request: nothing is made for each but the line itself.
  for (let left = reader.varint(); left > 0; left--) {
    at += reader.signed();
    const nanos = reader.varint();
    const severity = reader.byte();
    const text = reader.text();
    const fields = readFields(reader);
    const held = reader.byte();
    const observedAt = (held & has.observed) === 0 ? 0 : at + reader.signed();
    const observed = (held & has.observed) === 0 ? null : { at: observedAt as Instant, nanos: reader.varint() };
    const severityText = (held & has.severityText) === 0 ? '' : reader.text();
    const body = (held & has.body) === 0 ? undefined : readValue(reader);
    const trace = (held & has.trace) === 0 ? '' : reader.text();
    const span = (held & has.span) === 0 ? '' : reader.text();
    const flags = (held & has.flags) === 0 ? 0 : reader.varint();
    const event = (held & has.event) === 0 ? '' : reader.text();
    const fieldsDropped = (held & has.dropped) === 0 ? 0 : reader.varint();
    const line: Line = {
      at: at as Instant,
      nanos,
      observed,
      severity,
      severityText,
      text,
      fields,
      fieldsDropped,
      trace,
      span,
      flags,
      event,
      origin,
      resourceId
    };
    lines.push(body === undefined ? line : { ...line, body });
  }
  return lines;
}
