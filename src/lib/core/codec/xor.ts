import type { BitReader, BitWriter } from './bits';

/**
 * Writes doubles of any kind: each XORed with the one before, leading and trailing zero bits left out (Pelkonen et al. 2015, "Gorilla", section 4.1.2).
 * For columns that are no short decimals, such as what was computed elsewhere.
 */
export function writeXor(bits: BitWriter, values: Float64Array): void {
  const halves = new Uint32Array(new Float64Array(values).buffer);
  let high = 0;
  let low = 0;
  let leading = -1;
  let width = 0;
  for (let i = 0; i < values.length; i++) {
    const nextLow = halves[2 * i] as number;
    const nextHigh = halves[2 * i + 1] as number;
    const xorHigh = (high ^ nextHigh) >>> 0;
    const xorLow = (low ^ nextLow) >>> 0;
    high = nextHigh;
    low = nextLow;
    if (xorHigh === 0 && xorLow === 0) {
      bits.write(0, 1);
      continue;
    }
    const before = xorHigh === 0 ? 32 + Math.clz32(xorLow) : Math.clz32(xorHigh);
    const behind = xorLow === 0 ? 32 + trailing(xorHigh) : trailing(xorLow);
    if (leading >= 0 && before >= leading && 64 - leading - width <= behind) bits.write(2, 2);
    else {
      leading = before;
      width = 64 - before - behind;
      bits.write(3, 2);
      bits.write(leading, 6);
      bits.write(width - 1, 6);
    }
    writeMiddle(bits, xorHigh, xorLow, leading, width);
  }
}

/** Reads what {@link writeXor} wrote. */
export function readXor(bits: BitReader, into: Float64Array): void {
  const halves = new Uint32Array(into.buffer, into.byteOffset, into.length * 2);
  let high = 0;
  let low = 0;
  let leading = 0;
  let width = 0;
  for (let i = 0; i < into.length; i++) {
    if (bits.read(1) === 1) {
      if (bits.read(1) === 1) {
        leading = bits.read(6);
        width = bits.read(6) + 1;
        if (leading + width > 64) throw new RangeError('readXor: more than 64 bits in a value');
      }
      const end = leading + width;
      const highBits = Math.max(0, Math.min(32, end) - leading);
      const lowBits = width - highBits;
      if (highBits > 0) high = (high ^ (bits.read(highBits) << (32 - Math.min(32, end)))) >>> 0;
      if (lowBits > 0) low = (low ^ (bits.read(lowBits) << (64 - end))) >>> 0;
    }
    halves[2 * i] = low;
    halves[2 * i + 1] = high;
  }
}

function writeMiddle(bits: BitWriter, high: number, low: number, leading: number, width: number): void {
  const end = leading + width;
  const highBits = Math.max(0, Math.min(32, end) - leading);
  const lowBits = width - highBits;
  if (highBits > 0) bits.write(high >>> (32 - Math.min(32, end)), highBits);
  if (lowBits > 0) bits.write(low >>> (64 - end), lowBits);
}

const trailing = (word: number): number => 31 - Math.clz32(word & -word);
