import { ones, type SummaryPoints } from '../series';
import { BitReader, BitWriter } from './bits';
import { readColumn, writeColumn } from './column';
import { readInstants, writeInstants } from './instants';

const version = 1;
/** Points in one chunk at most: its length decides an allocation when it is read. */
export const mostChunkPoints = 1_000_000;

/**
 * Packs the points of one series into bytes, without losing a bit of any value. Layout, as bits: version (8), whether every point is a single reading (1),
 * length (32), the instants, then the columns: one for single readings (count 1, sum = min = max), else sum, count, min and max, each in the way that suits it
 * ({@link writeColumn}, {@link writeInstants}: there the published methods are named).
 *
 * @param length points in use, all by default; from 1
 * @throws RangeError for no points, or instants that do not rise
 * cost: O(points), about a microsecond a value
 * @example encodeChunk(points).byteLength // 28 for a day of a constant
 */
export function encodeChunk(points: SummaryPoints, length: number = points.at.length): Uint8Array {
  if (length < 1 || length > mostChunkPoints)
    throw new RangeError(`encodeChunk: expected 1 to ${mostChunkPoints} points, got ${length}`);
  const at = points.at.subarray(0, length);
  for (let i = 0; i < length; i++)
    if (!Number.isInteger(at[i]) || (at[i] as number) < 0 || (i > 0 && !((at[i] as number) > (at[i - 1] as number))))
      throw new RangeError(`encodeChunk: instants must be whole and rise, got ${at[i]} at ${i}`);
  const single = isSingle(points, length);
  const bits = new BitWriter();
  bits.write(version, 8);
  bits.write(single ? 1 : 0, 1);
  bits.write(length, 32);
  writeInstants(bits, at);
  for (const name of single ? (['sum'] as const) : (['sum', 'count', 'min', 'max'] as const))
    writeColumn(bits, points[name].subarray(0, length));
  return new Uint8Array(bits.words().buffer);
}

/**
 * Unpacks what {@link encodeChunk} packed. For single readings sum, min and max are one array, and the counts are shared by all: not to be written to.
 *
 * @throws RangeError when the bytes are of another version, cut short or not such a chunk
 * @example decodeChunk(encodeChunk(points)) // the same points
 */
export function decodeChunk(bytes: Uint8Array): SummaryPoints {
  if (bytes.byteLength < 12 || bytes.byteLength % 4 !== 0)
    throw new RangeError(`decodeChunk: ${bytes.byteLength} bytes are no chunk`);
  const words = new Uint32Array(bytes.byteLength / 4 + 1); // one more than was written, for the reader's window
  new Uint8Array(words.buffer).set(bytes);
  const bits = new BitReader(words);
  const written = bits.read(8);
  if (written !== version) throw new RangeError(`decodeChunk: version ${written} is not known here, only ${version}`);
  const single = bits.read(1) === 1;
  const length = bits.read(32);
  if (length < 1 || length > mostChunkPoints)
    throw new RangeError(`decodeChunk: a length of ${length} is not possible`);
  const columns = new Float64Array(length * (single ? 2 : 5)); // one allocation: taking memory costs as much as decoding into it
  const column = (index: number) => columns.subarray(index * length, (index + 1) * length);
  const [at, sum] = [column(0), column(1)];
  readInstants(bits, at);
  readColumn(bits, sum);
  const points = single
    ? { at, sum, count: ones(length), min: sum, max: sum }
    : { at, sum, count: column(2), min: column(3), max: column(4) };
  if (!single) for (const values of [points.count, points.min, points.max]) readColumn(bits, values);
  if (Math.ceil(bits.position / 32) !== bytes.byteLength / 4)
    throw new RangeError(
      `decodeChunk: ${bytes.byteLength} bytes, but ${Math.ceil(bits.position / 32) * 4} were written`
    );
  return points;
}

/** Numbers a chunk holds beside its instants: one for each single reading, four for each summary point. */
export const samplesIn = (points: SummaryPoints): number =>
  points.at.length * (isSingle(points, points.at.length) ? 1 : 4);

function isSingle({ sum, count, min, max }: SummaryPoints, length: number): boolean {
  for (let i = 0; i < length; i++)
    if (count[i] !== 1 || !Object.is(sum[i], min[i]) || !Object.is(sum[i], max[i])) return false;
  return true;
}
