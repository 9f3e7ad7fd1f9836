import { BitReader, BitWriter } from './bits';

/** Values that share one parameter. */
export const blockLength = 128;
const parameterBits = 6;
/** Parameter of a block that holds nothing but zeros and needs no bits for them. */
const allZero = 63;
/** A quotient this long is written as the bare value behind it. */
const escape = 20;
const escapeBits = 53;

/** A signed whole number as an unsigned one, small for small magnitudes. @example zigzag(-2) // 3 */
export const zigzag = (value: number): number => (value >= 0 ? 2 * value : -2 * value - 1);

/**
 * Writes whole numbers so that small magnitudes take few bits: Rice codes (Rice and Plaunt 1971) with one parameter for each 128 values, as lossless
 * audio has them (RFC 9639, section 9.2.7, partitioned Rice codes with an escape). The parameter of a block is the one that takes the fewest bits.
 *
 * @param values whole, magnitudes below 2^52
 */
export function writeRice(bits: BitWriter, values: Float64Array): void {
  const block = new Float64Array(blockLength);
  for (let start = 0; start < values.length; start += blockLength) {
    const count = Math.min(blockLength, values.length - start);
    let sum = 0;
    for (let i = 0; i < count; i++) sum += block[i] = zigzag(values[start + i] as number);
    const parameter = bestParameter(block, count, sum);
    bits.write(parameter, parameterBits);
    if (parameter === allZero) continue;
    const divisor = 2 ** parameter;
    for (let i = 0; i < count; i++) {
      const value = block[i] as number;
      const quotient = Math.floor(value / divisor);
      if (quotient < escape) {
        bits.writeUnary(quotient);
        bits.write(value - quotient * divisor, parameter);
      } else {
        bits.write(2 ** escape - 1, escape);
        bits.write(value, escapeBits);
      }
    }
  }
}

/**
 * About how many bits {@link writeRice} would take, from the mean magnitude of each block: a Rice code spends one and a half bits and the logarithm
 * of the mean on a value. Good enough to choose between predictions, and much faster than counting.
 */
export function roughCost(values: Float64Array): number {
  let cost = 0;
  for (let start = 0; start < values.length; start += blockLength) {
    const end = Math.min(values.length, start + blockLength);
    let sum = 0;
    for (let i = start; i < end; i++) sum += Math.abs(values[i] as number);
    if (sum > 0) cost += (end - start) * (1.5 + Math.max(0, Math.log2((2 * sum) / (end - start))));
  }
  return cost;
}

/** Near the logarithm of the mean, where the cost has its one minimum. */
function bestParameter(block: Float64Array, count: number, sum: number): number {
  if (sum === 0) return allZero;
  const guess = Math.max(0, Math.min(51, Math.floor(Math.log2(Math.max(1, sum / count)))));
  let best = guess;
  let least = Infinity;
  for (let parameter = Math.max(0, guess - 2); parameter <= guess + 1; parameter++) {
    const cost = blockCost(block, count, parameter);
    if (cost < least) {
      least = cost;
      best = parameter;
    }
  }
  return best;
}

function blockCost(block: Float64Array, count: number, parameter: number): number {
  const scale = 2 ** -parameter;
  let cost = 0;
  for (let i = 0; i < count; i++) {
    const quotient = Math.floor((block[i] as number) * scale);
    cost += quotient < escape ? quotient + 1 + parameter : escape + escapeBits;
  }
  return cost;
}

/**
 * Reads what {@link writeRice} wrote.
 *
 * @param into its length says how many values there are
 * @throws RangeError when the bits end before
 */
export function readRice(bits: BitReader, into: Float64Array): void {
  const room = (bits.words.length - 1) * 32;
  for (let start = 0; start < into.length; start += blockLength) {
    const end = Math.min(into.length, start + blockLength);
    const parameter = bits.read(parameterBits);
    if (parameter === allZero) into.fill(0, start, end);
    else if (parameter <= 11) readShort(bits, into, start, end, parameter);
    else if (parameter <= 25) readMiddle(bits, into, start, end, parameter);
    else readLong(bits, into, start, end, parameter);
    if (bits.position > room) throw new RangeError('readRice: the bits end before the values do');
  }
}

/** The usual case: quotient, its end and the remainder lie in one window of 32 bits. */
function readShort(bits: BitReader, into: Float64Array, start: number, end: number, parameter: number): void {
  const { words } = bits;
  let position = bits.position;
  for (let i = start; i < end; i++) {
    const index = position >>> 5;
    const used = position & 31;
    const first = (words[index] as number) << used;
    // Shifted in two steps, since a shift by 32 would be none.
    const window = first | (((words[index + 1] as number) >>> 1) >>> (31 - used));
    const quotient = Math.clz32(~window);
    if (quotient < escape) {
      const value =
        parameter === 0 ? quotient : (quotient << parameter) | ((window << (quotient + 1)) >>> (32 - parameter));
      into[i] = (value >>> 1) ^ -(value & 1);
      position += quotient + 1 + parameter;
    } else {
      bits.position = position + escape;
      into[i] = unzigzag(bits.read(escapeBits));
      position = bits.position;
    }
  }
  bits.position = position;
}

/** The remainder lies in a window of its own; everything still fits 32 bits. */
function readMiddle(bits: BitReader, into: Float64Array, start: number, end: number, parameter: number): void {
  const { words } = bits;
  const drop = 32 - parameter;
  let position = bits.position;
  for (let i = start; i < end; i++) {
    let index = position >>> 5;
    let used = position & 31;
    const quotient = Math.clz32(
      ~(((words[index] as number) << used) | (((words[index + 1] as number) >>> 1) >>> (31 - used)))
    );
    if (quotient < escape) {
      position += quotient + 1;
      index = position >>> 5;
      used = position & 31;
      const window = ((words[index] as number) << used) | (((words[index + 1] as number) >>> 1) >>> (31 - used));
      const value = (quotient << parameter) | (window >>> drop);
      into[i] = (value >>> 1) ^ -(value & 1);
      position += parameter;
    } else {
      bits.position = position + escape;
      into[i] = unzigzag(bits.read(escapeBits));
      position = bits.position;
    }
  }
  bits.position = position;
}

function readLong(bits: BitReader, into: Float64Array, start: number, end: number, parameter: number): void {
  const divisor = 2 ** parameter;
  for (let i = start; i < end; i++) {
    const quotient = Math.clz32(~bits.peek());
    if (quotient < escape) {
      bits.position += quotient + 1;
      into[i] = unzigzag(quotient * divisor + bits.read(parameter));
    } else {
      bits.position += escape;
      into[i] = unzigzag(bits.read(escapeBits));
    }
  }
}

function unzigzag(value: number): number {
  const half = Math.floor(value / 2);
  return half * 2 === value ? half : -half - 1;
}
