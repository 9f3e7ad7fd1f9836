import type { Instant } from '../../time';
import type { Origin } from '../line';
import { mostSeverity } from '../severity';
import { ByteReader, ByteWriter } from './bytes';
import type { FieldSummary } from './fields';
import { readOrigin, writeOrigin } from './origin';
import type { TextGroup } from './texts';

/** What is known of a segment without reading its lines: enough to pass most of them over. */
export interface SegmentSummary {
  readonly lines: number;
  /** Of the earliest and of the latest line. */
  readonly from: Instant;
  readonly to: Instant;
  /** Lines by severity number, 0 to 24. */
  readonly severities: readonly number[];
  /** Each with the part that holds it. */
  readonly groups: readonly (TextGroup & { readonly part: number })[];
  readonly origins: readonly Origin[];
  readonly fields: readonly FieldSummary[];
  /** Trace ids, in small letters. */
  readonly traces: Uint8Array;
  /** Bytes of the text and the fields as they came, about. */
  readonly raw: number;
}

/** The first byte of a summary: how it is written. */
const version = 1;

/** A summary as bytes. */
export function writeSummary(summary: SegmentSummary): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter(2048);
  writer.byte(version);
  for (const value of [summary.lines, summary.from, summary.to - summary.from, summary.raw]) writer.varint(value);
  for (const count of summary.severities) writer.varint(count);
  writer.varint(summary.origins.length);
  for (const origin of summary.origins) writeOrigin(writer, origin);
  writer.varint(summary.groups.length);
  for (const { shape, several, pieces, lines, part, filter } of summary.groups) {
    writer.varint(shape === null ? 0 : shape + 1);
    if (shape === null) {
      writer.varint(several.length);
      for (const [one, count] of several) {
        writer.varint(one);
        writer.varint(count);
      }
    }
    writer.varint(pieces === null ? 0 : pieces.length + 1);
    for (const piece of pieces ?? []) {
      writer.byte(piece === null ? 0 : 1);
      if (piece !== null) writer.text(piece);
    }
    writer.varint(lines);
    writer.varint(part);
    writer.block(filter);
  }
  writer.varint(summary.fields.length);
  for (const { name, lines, values, filter, part } of summary.fields) {
    writer.text(name);
    writer.varint(lines);
    writer.varint(part);
    writer.varint(values === null ? 0 : values.length + 1);
    for (const value of values ?? []) writer.text(value);
    writer.block(filter);
  }
  writer.block(summary.traces);
  return writer.bytes();
}

/** @throws RangeError for bytes that are no summary */
export function readSummary(bytes: Uint8Array): SegmentSummary {
  const reader = new ByteReader(bytes);
  const known = reader.byte();
  if (known !== version) throw new RangeError(`segment: no version ${known}`);
  const [lines, from, span, raw] = [reader.varint(), reader.varint(), reader.varint(), reader.varint()];
  const severities = Array.from({ length: mostSeverity + 1 }, () => reader.varint());
  const origins = Array.from({ length: reader.varint() }, () => readOrigin(reader));
  const groups = Array.from({ length: reader.varint() }, () => {
    const shape = reader.varint();
    const several =
      shape === 0 ? Array.from({ length: reader.varint() }, () => [reader.varint(), reader.varint()] as const) : [];
    const length = reader.varint();
    const pieces =
      length === 0 ? null : Array.from({ length: length - 1 }, () => (reader.byte() === 0 ? null : reader.text()));
    return {
      shape: shape === 0 ? null : shape - 1,
      several,
      pieces,
      lines: reader.varint(),
      part: reader.varint(),
      filter: reader.block().slice()
    };
  });
  const fields = Array.from({ length: reader.varint() }, () => {
    const [name, having, part] = [reader.text(), reader.varint(), reader.varint()];
    const length = reader.varint();
    const values = length === 0 ? null : Array.from({ length: length - 1 }, () => reader.text());
    return { name, lines: having, part, values, filter: reader.block().slice() };
  });
  return {
    ...{ lines, severities, groups, origins, fields, raw },
    from: from as Instant,
    to: (from + span) as Instant,
    traces: reader.block().slice()
  };
}
