import { pointsOfLength, type SummaryPoints } from './points';

/** The points of one series within a batch. */
export interface BatchBlock {
  readonly seriesId: number;
  readonly points: SummaryPoints;
}

const version = 1;
const columns = ['at', 'sum', 'count', 'min', 'max'] as const;

/**
 * Writes a batch as bytes: a header (version, number of blocks; 32 bits each), then for each block its series id and length (32 bits each) and
 * the five columns as 64-bit floats, all little-endian. Nothing is lost: every bit of every value comes back.
 *
 * @example encodeBatch([]).byteLength // 8
 */
export function encodeBatch(blocks: readonly BatchBlock[]): Uint8Array {
  const size = blocks.reduce((sum, { points }) => sum + 8 + points.at.length * 40, 8);
  const bytes = new Uint8Array(size);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, version, true);
  view.setUint32(4, blocks.length, true);
  let offset = 8;
  for (const { seriesId, points } of blocks) {
    view.setUint32(offset, seriesId, true);
    view.setUint32(offset + 4, points.at.length, true);
    offset += 8;
    for (const column of columns) {
      new Float64Array(bytes.buffer, offset, points.at.length).set(points[column]);
      offset += points.at.length * 8;
    }
  }
  return bytes;
}

/**
 * Reads what {@link encodeBatch} wrote.
 *
 * @throws RangeError when the bytes are of another version, cut short or longer than they say
 * @example decodeBatch(encodeBatch(blocks)) // the same blocks
 */
export function decodeBatch(bytes: Uint8Array): BatchBlock[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.byteLength < 8) throw new RangeError(`decodeBatch: ${bytes.byteLength} bytes are too few for a header`);
  const written = view.getUint32(0, true);
  if (written !== version) throw new RangeError(`decodeBatch: version ${written} is not known here, only ${version}`);
  const blocks: BatchBlock[] = [];
  let offset = 8;
  for (let block = view.getUint32(4, true); block > 0; block--) {
    const left = bytes.byteLength - offset - 8;
    const length = left >= 0 ? view.getUint32(offset + 4, true) : 0;
    if (left < length * 40)
      throw new RangeError(
        `decodeBatch: cut short at byte ${bytes.byteLength}, a block of ${length} points needs ${length * 40} more`
      );
    const points = pointsOfLength(length);
    const seriesId = view.getUint32(offset, true);
    offset += 8;
    for (const column of columns) {
      const from = bytes.byteOffset + offset;
      points[column].set(new Float64Array(bytes.buffer.slice(from, from + length * 8)));
      offset += length * 8;
    }
    blocks.push({ seriesId, points });
  }
  if (offset !== bytes.byteLength) throw new RangeError(`decodeBatch: ${bytes.byteLength - offset} bytes left over`);
  return blocks;
}
