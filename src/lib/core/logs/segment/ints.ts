import type { ByteReader, ByteWriter } from './bytes';

/** Whole numbers from 0 on: all the same, thousands of something, or each by itself. */
export function writeInts(writer: ByteWriter, values: ArrayLike<number>): void {
  const first = values[0] ?? 0;
  let isSame = true;
  let areThousands = true;
  for (let index = 0; index < values.length; index++) {
    const value = values[index] ?? 0;
    if (value !== first) isSame = false;
    if (value % 1000 !== 0) areThousands = false;
  }
  writer.byte(isSame ? 0 : areThousands ? 1 : 2);
  if (isSame) writer.varint(first);
  else
    for (let index = 0; index < values.length; index++)
      writer.varint(areThousands ? (values[index] ?? 0) / 1000 : (values[index] ?? 0));
}

export function readInts<Ints extends Uint16Array | Uint32Array | Float64Array>(
  reader: ByteReader,
  values: Ints
): Ints {
  const how = reader.byte();
  if (how === 0) return values.fill(reader.varint()) as Ints;
  const scale = how === 1 ? 1000 : 1;
  for (let index = 0; index < values.length; index++) values[index] = reader.varint() * scale;
  return values;
}
