import type { Line } from '../line';
import type { Instant } from '../../time';
import { ByteReader, ByteWriter } from './bytes';
import { readInts, writeInts } from './ints';
import { columnIn } from './parts';
import { readStrings, writeStrings } from './strings';
import { readValue, writeValue } from './values';

/** What only a line that is shown needs. */
export function writeRest(lines: readonly Line[]): Uint8Array {
  const writer = new ByteWriter(lines.length * 4);
  writeInts(
    writer,
    lines.map(({ observed }) => (observed === null ? 0 : 1))
  );
  for (const { at, observed } of lines) if (observed !== null) writer.signed(observed.at - at);
  writeInts(
    writer,
    lines.flatMap(({ observed }) => (observed === null ? [] : observed.nanos))
  );
  writeStrings(
    writer,
    lines.map(({ severityText }) => severityText)
  );
  for (const name of ['trace', 'span'] as const) {
    writeInts(
      writer,
      lines.map((line) => (line[name] === '' ? 0 : 1))
    );
    for (const line of lines) if (line[name] !== '') writer.raw(hexBytes(line[name]));
  }
  writeInts(
    writer,
    lines.map(({ flags }) => flags)
  );
  writeStrings(
    writer,
    lines.map(({ event }) => event)
  );
  writeInts(
    writer,
    lines.map(({ fieldsDropped }) => fieldsDropped)
  );
  writeInts(
    writer,
    lines.map(({ body }) => (body === undefined ? 0 : 1))
  );
  for (const { body } of lines) if (body !== undefined) writeValue(writer, body);
  return writer.bytes();
}

/** What {@link writeRest} writes of a line. */
export type Rest = Pick<
  Line,
  'observed' | 'severityText' | 'trace' | 'span' | 'flags' | 'event' | 'fieldsDropped' | 'body'
>;

export function readRest(part: Uint8Array, at: Float64Array): Rest[] {
  const reader = new ByteReader(columnIn(part, 0));
  const length = at.length;
  const isObserved = readInts(reader, new Uint32Array(length));
  const observedAt = Array.from(isObserved, (is, index) => (is === 0 ? 0 : (at[index] ?? 0) + reader.signed()));
  const observedNanos = readInts(reader, new Uint32Array(isObserved.reduce((sum, is) => sum + is, 0)));
  let observed = 0;
  const observedOf = Array.from(isObserved, (is, index) =>
    is === 0 ? null : { at: observedAt[index] as Instant, nanos: observedNanos[observed++] ?? 0 }
  );
  const severityTexts = readStrings(reader, length);
  const [traces, spans] = [16, 8].map((size) =>
    Array.from(readInts(reader, new Uint32Array(length))).map((is) => (is === 0 ? '' : hexText(reader.raw(size))))
  ) as [string[], string[]];
  const flags = readInts(reader, new Uint32Array(length));
  const events = readStrings(reader, length);
  const dropped = readInts(reader, new Uint32Array(length));
  const bodies = Array.from(readInts(reader, new Uint32Array(length))).map((is) =>
    is === 0 ? {} : { body: readValue(reader) }
  );
  return observedOf.map((one, index) => ({
    observed: one,
    severityText: severityTexts[index] ?? '',
    trace: traces[index] ?? '',
    span: spans[index] ?? '',
    flags: flags[index] ?? 0,
    event: events[index] ?? '',
    fieldsDropped: dropped[index] ?? 0,
    ...bodies[index]
  }));
}

const hexBytes = (hex: string): Uint8Array =>
  Uint8Array.from({ length: hex.length / 2 }, (_, index) => parseInt(hex.slice(2 * index, 2 * index + 2), 16));
const hexText = (bytes: Uint8Array): string => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
