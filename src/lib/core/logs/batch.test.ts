import { expect } from 'chai';
import fc from 'fast-check';
import { anyLine } from '../../../../tests/support/lines';
import { decodeBatch, encodeBatch, noOrigin } from './index';

describe('a batch of lines', () => {
  it('is read as it was written', () => {
    fc.assert(
      fc.property(fc.array(anyLine, { maxLength: 20 }), fc.option(fc.nat(500)), (drafts, resourceId) => {
        const origin = drafts[0]?.origin ?? noOrigin;
        const lines = drafts.map((line) => ({ ...line, origin, resourceId }));
        expect(decodeBatch(encodeBatch(origin, lines), resourceId)).to.deep.equal(lines);
      })
    );
  });

  it('that is cut short is refused', () => {
    const bytes = encodeBatch(noOrigin, fc.sample(anyLine, 10));
    for (let length = 0; length < bytes.length; length += 5)
      expect(() => decodeBatch(bytes.subarray(0, length), null)).to.throw(RangeError);
  });
});
