import { expect } from 'chai';
import fc from 'fast-check';
import { columnsOf } from '../../../../tests/support/points';
import { decodeBatch, encodeBatch, pointsOfLength } from './index';

const bitsOf = ({ buffer, byteOffset, byteLength }: Float64Array): Buffer =>
  Buffer.from(buffer, byteOffset, byteLength);

describe('batches', () => {
  const anyNumber = fc.double();
  const block = fc.record({
    seriesId: fc.integer({ min: 0, max: 2 ** 32 - 1 }),
    points: fc.array(fc.tuple(anyNumber, anyNumber, anyNumber, anyNumber, anyNumber), { maxLength: 20 }).map((rows) => {
      const columns = pointsOfLength(rows.length);
      rows.forEach((row, i) =>
        (['at', 'sum', 'count', 'min', 'max'] as const).forEach((name, n) => (columns[name][i] = row[n]!))
      );
      return columns;
    })
  });

  it('come back bit by bit, also from the middle of a larger buffer', () => {
    fc.assert(
      fc.property(fc.array(block, { maxLength: 5 }), fc.nat(9), (blocks, offset) => {
        const bytes = encodeBatch(blocks);
        const shifted = Buffer.alloc(bytes.length + offset); // as the database's driver gives it
        shifted.set(bytes, offset);
        const read = decodeBatch(shifted.subarray(offset));
        expect(read.map(({ seriesId }) => seriesId)).to.deep.equal(blocks.map(({ seriesId }) => seriesId));
        read.forEach(({ points }, i) => {
          for (const name of ['at', 'sum', 'count', 'min', 'max'] as const)
            expect(bitsOf(points[name])).to.deep.equal(bitsOf(blocks[i]!.points[name]));
        });
      })
    );
  });

  it('cut short, of another version or too long are refused', () => {
    const bytes = encodeBatch([{ seriesId: 7, points: columnsOf([{ at: 1, sum: 2, count: 1, min: 2, max: 2 }]) }]);
    for (let length = 0; length < bytes.length; length++)
      expect(() => decodeBatch(bytes.slice(0, length)), String(length)).to.throw(RangeError);
    expect(() => decodeBatch(Uint8Array.of(...bytes, 0))).to.throw(RangeError, 'left over');
    expect(() => decodeBatch(Uint8Array.of(9, ...bytes.slice(1)))).to.throw(RangeError, 'version 9');
  });
});
