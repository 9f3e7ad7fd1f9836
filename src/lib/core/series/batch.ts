import type { SummaryPoints } from './points';

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
  const numbers = new Float64Array(bytes.buffer); // everything lies on a multiple of eight
  view.setUint32(0, version, true);
  view.setUint32(4, blocks.length, true);
  let offset = 8;
  for (const { seriesId, points } of blocks) {
    view.setUint32(offset, seriesId, true);
    view.setUint32(offset + 4, points.at.length, true);
    offset += 8;
    for (const column of columns) {
      numbers.set(points[column], offset / 8);
      offset += points.at.length * 8;
    }
  }
  return bytes;
}

/**
 * Reads what {@link encodeBatch} wrote. The columns are views of the bytes, which are copied once when they do not lie on a multiple of eight.
 *
 * @throws RangeError when the bytes are of another version, cut short or longer than they say
 * @example decodeBatch(encodeBatch(blocks)) // the same blocks
 */
export function decodeBatch(bytes: Uint8Array): BatchBlock[] {
  if (bytes.byteLength < 8) throw new RangeError(`decodeBatch: ${bytes.byteLength} bytes are too few for a header`);
  const aligned = bytes.byteOffset % 8 === 0 ? bytes : new Uint8Array(bytes);
  const view = new DataView(aligned.buffer, aligned.byteOffset, aligned.byteLength);
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
    const seriesId = view.getUint32(offset, true);
    const column = (index: number) =>
      new Float64Array(aligned.buffer, aligned.byteOffset + offset + 8 + index * length * 8, length);
    blocks.push({
      seriesId,
      points: { at: column(0), sum: column(1), count: column(2), min: column(3), max: column(4) }
    });
    offset += 8 + length * 40;
  }
  if (offset !== bytes.byteLength) throw new RangeError(`decodeBatch: ${bytes.byteLength - offset} bytes left over`);
  return blocks;
}
