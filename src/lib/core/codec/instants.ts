import type { BitReader, BitWriter } from './bits';
import { readRice, writeRice } from './rice';

const instantBits = 48;

/**
 * Writes strictly rising instants, at least one: the first, the usual distance, and by how much each distance differs from it, in their greatest common
 * divisor. Regular sampling takes next to nothing, and a missing sample costs once. Distances instead of instants are Gorilla's idea (Pelkonen et al. 2015,
 * section 4.1.1); the usual distance is the median, since a gap would disturb two differences of differences.
 *
 * @param at whole milliseconds since the epoch
 */
export function writeInstants(bits: BitWriter, at: Float64Array): void {
  bits.write(at[0] as number, instantBits);
  if (at.length === 1) return;
  const distances = Float64Array.from({ length: at.length - 1 }, (_, i) => (at[i + 1] as number) - (at[i] as number));
  const first = distances[0] as number;
  const usual = distances.every((distance) => distance === first)
    ? first
    : (distances.toSorted()[distances.length >>> 1] as number);
  let unit = 0;
  for (const distance of distances) unit = greatestCommonDivisor(unit, Math.abs(distance - usual));
  bits.write(usual, instantBits);
  bits.write(unit, instantBits);
  if (unit === 0) return;
  writeRice(
    bits,
    distances.map((distance) => (distance - usual) / unit)
  );
}

/**
 * Reads what {@link writeInstants} wrote.
 *
 * @param at its length, from 1, says how many there are
 * @throws RangeError when the instants do not rise
 */
export function readInstants(bits: BitReader, at: Float64Array): void {
  let last = (at[0] = bits.read(instantBits));
  if (at.length === 1) return;
  const usual = bits.read(instantBits);
  const unit = bits.read(instantBits);
  if (unit > 0)
    readRice(bits, at.subarray(1)); // by how much each distance differs, in units
  else at.fill(0, 1);
  for (let i = 1; i < at.length; i++) {
    const distance = usual + unit * (at[i] as number);
    if (!(distance > 0)) throw new RangeError(`readInstants: instant ${i} does not come after the one before`);
    at[i] = last += distance;
  }
}

function greatestCommonDivisor(a: number, b: number): number {
  while (b > 0) [a, b] = [b, a % b];
  return a;
}
