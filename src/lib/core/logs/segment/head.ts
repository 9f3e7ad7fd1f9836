import type { Line } from '../line';
import { ByteReader, ByteWriter } from './bytes';
import { readInts, writeInts } from './ints';
import { columnIn, headPart } from './parts';

/** What every search looks at, by line. */
export interface SegmentHead {
  readonly at: Float64Array;
  readonly nanos: Uint32Array;
  readonly severity: Uint8Array;
  /** Which of {@link SegmentSummary.groups} each is in. */
  readonly group: Uint16Array;
  /** Shapes of the lines of the group that has different ones, in their order. */
  readonly alone: Uint32Array;
  readonly origin: Uint32Array;
  /** Resources of the inventory; 0 for none. */
  readonly resource: Uint32Array;
}

export function writeHead(
  lines: readonly Line[],
  groupOf: Uint16Array,
  alone: readonly number[],
  originOf: Uint32Array
): Uint8Array {
  const writer = new ByteWriter(lines.length * 6);
  let before = 0;
  for (const { at } of lines) {
    writer.signed(at - before);
    before = at;
  }
  for (const { severity } of lines) writer.byte(severity);
  writeInts(writer, groupOf);
  writer.varint(alone.length);
  writeInts(writer, alone);
  writeInts(
    writer,
    lines.map(({ nanos }) => nanos)
  );
  writeInts(writer, originOf);
  writeInts(
    writer,
    lines.map(({ resourceId }) => resourceId ?? 0)
  );
  return writer.bytes();
}

export function readHead(part: Uint8Array, lines: number): SegmentHead {
  const reader = new ByteReader(columnIn(part, headPart));
  const at = new Float64Array(lines);
  let before = 0;
  for (let index = 0; index < lines; index++) at[index] = before += reader.signed();
  const severity = reader.raw(lines);
  const group = readInts(reader, new Uint16Array(lines));
  const several = reader.varint();
  if (several > lines) throw new RangeError('segment: more shapes than lines');
  const alone = readInts(reader, new Uint32Array(several));
  // Counting lines needs no more than this; the others are read for those that are shown or compared.
  let more: Pick<SegmentHead, 'nanos' | 'origin' | 'resource'> | null = null;
  const others = () =>
    (more ??= {
      nanos: readInts(reader, new Uint32Array(lines)),
      origin: readInts(reader, new Uint32Array(lines)),
      resource: readInts(reader, new Uint32Array(lines))
    });
  return {
    ...{ at, severity, group, alone },
    get nanos() {
      return others().nanos;
    },
    get origin() {
      return others().origin;
    },
    get resource() {
      return others().resource;
    }
  };
}

/** For each line, how many before it are in the same group. */
export function ranksOf(group: Uint16Array): Uint32Array {
  const next = new Uint32Array(65_536);
  return Uint32Array.from(group, (one) => {
    const rank = next[one] ?? 0;
    next[one] = rank + 1;
    return rank;
  });
}
