import type { BitReader, BitWriter } from './bits';
import { decimalsOf } from './decimal';
import { predictors, residuals, undoResiduals } from './predict';
import { readRice, roughCost, writeRice } from './rice';
import { readXor, writeXor } from './xor';

/** How a column is written; the position is its code. */
const ways = ['constant', 'decimal', 'xor'] as const;
const wayBits = 2;
const predictorBits = 3;
const placesBits = 4;

/**
 * Writes a column of doubles, at least one, in whichever way takes the fewest bits: one value when all are the same; as decimals, predicted, in Rice codes;
 * else as XORs. Every bit of every value comes back.
 */
export function writeColumn(bits: BitWriter, values: Float64Array): void {
  const first = values[0] as number;
  if (values.every((value) => Object.is(value, first))) {
    bits.write(ways.indexOf('constant'), wayBits);
    writeDouble(bits, first);
    return;
  }
  const decimals = decimalsOf(values);
  if (decimals === null) {
    bits.write(ways.indexOf('xor'), wayBits);
    writeXor(bits, values);
    return;
  }
  const { wholes, places } = decimals;
  let best = { predictor: 0, left: residuals(wholes, predictors[0]), cost: Infinity };
  for (const [predictor, name] of predictors.entries()) {
    const left = residuals(wholes, name);
    const cost = roughCost(left);
    if (cost < best.cost) best = { predictor, left, cost };
  }
  bits.write(ways.indexOf('decimal'), wayBits);
  bits.write(places, placesBits);
  bits.write(best.predictor, predictorBits);
  writeDouble(bits, wholes[0] as number);
  writeRice(bits, best.left);
}

/**
 * Reads what {@link writeColumn} wrote.
 *
 * @param values its length says how many there are
 * @throws RangeError when it is of no known way
 */
export function readColumn(bits: BitReader, values: Float64Array): void {
  const way = ways[bits.read(wayBits)];
  switch (way) {
    case 'constant':
      values.fill(readDouble(bits));
      return;
    case 'xor':
      readXor(bits, values);
      return;
    case 'decimal': {
      const places = bits.read(placesBits);
      const predictor = predictors[bits.read(predictorBits)];
      if (predictor === undefined) throw new RangeError('readColumn: no such predictor');
      const first = readDouble(bits);
      readRice(bits, values);
      undoResiduals(values, first, predictor);
      if (places > 0) {
        const scale = 10 ** places;
        for (let i = 0; i < values.length; i++) values[i] = (values[i] as number) / scale;
      }
      return;
    }
    case undefined:
      throw new RangeError('readColumn: written in no way that is known here');
    default:
      throw new RangeError(`readColumn: unknown way ${String(way satisfies never)}`);
  }
}

export function writeDouble(bits: BitWriter, value: number): void {
  const [low, high] = new Uint32Array(Float64Array.of(value).buffer) as unknown as [number, number];
  bits.write(high, 32);
  bits.write(low, 32);
}

export function readDouble(bits: BitReader): number {
  const halves = new Uint32Array(2);
  halves[1] = bits.read(32);
  halves[0] = bits.read(32);
  return new Float64Array(halves.buffer)[0] as number;
}
