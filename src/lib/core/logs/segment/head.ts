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
  const column = columnIn(part, headPart);
  const reader = new ByteReader(column);
  reader.skipVarints(lines);
  const severity = reader.raw(lines);
  let times: Float64Array | null = null;
  // Counting needs the times as well, finding the groups, and showing or comparing the rest.
  let grouped: Pick<SegmentHead, 'group' | 'alone'> | null = null;
  const groups = () => (grouped ??= readGroups(reader, lines));
  let more: Pick<SegmentHead, 'nanos' | 'origin' | 'resource'> | null = null;
  const others = () => {
    groups(); // they stand before the others
    return (more ??= {
      nanos: readInts(reader, new Uint32Array(lines)),
      origin: readInts(reader, new Uint32Array(lines)),
      resource: readInts(reader, new Uint32Array(lines))
    });
  };
  return {
    severity,
    get at() {
      return (times ??= readTimes(new ByteReader(column), lines));
    },
    get group() {
      return groups().group;
    },
    get alone() {
      return groups().alone;
    },
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

function readTimes(reader: ByteReader, lines: number): Float64Array {
  const at = new Float64Array(lines);
  let before = 0;
  for (let index = 0; index < lines; index++) at[index] = before += reader.signed();
  return at;
}

function readGroups(reader: ByteReader, lines: number): Pick<SegmentHead, 'group' | 'alone'> {
  const group = readInts(reader, new Uint16Array(lines));
  const several = reader.varint();
  if (several > lines) throw new RangeError('segment: more shapes than lines');
  return { group, alone: readInts(reader, new Uint32Array(several)) };
}

/** For each line, how many before it are in the same group. */
export function ranksOf(group: Uint16Array): Uint32Array {
  let most = 0;
  for (const one of group) if (one > most) most = one;
  const next = new Uint32Array(most + 1);
  const ranks = new Uint32Array(group.length);
  for (let line = 0; line < group.length; line++) {
    const one = group[line] as number;
    ranks[line] = next[one] as number;
    next[one] = (ranks[line] as number) + 1;
  }
  return ranks;
}
