import { expect } from 'chai';
import fc from 'fast-check';
import { sharedTime } from './shared-time';

describe('the time of signals that were computed together', () => {
  it('is shared out whole, to each its own and by what was read for it', () => {
    const own = fc.record({ milliseconds: fc.nat(1000), points: fc.nat(100_000) });
    fc.assert(
      fc.property(fc.array(own, { minLength: 1, maxLength: 12 }), fc.nat(5000), (all, reading) => {
        const sum = all.reduce((milliseconds, one) => milliseconds + one.milliseconds, 0);
        const shared = sharedTime(all, sum + reading);
        expect(shared.reduce((one, other) => one + other, 0)).to.be.closeTo(sum + reading, 1e-6);
        const readFor = all.reduce((points, one) => points + one.points, 0);
        for (const [index, { milliseconds, points }] of all.entries()) {
          if (readFor > 0 && points === 0) expect(shared[index]).to.equal(milliseconds);
          expect(shared[index]).to.be.at.least(milliseconds);
        }
      })
    );
  });

  it('is what each took by itself where the clock says less, and nothing for none', () => {
    expect(sharedTime([{ milliseconds: 3, points: 10 }], 2)).to.deep.equal([3]);
    expect(sharedTime([], 5)).to.deep.equal([]);
    expect(
      sharedTime(
        [
          { milliseconds: 1, points: 30 },
          { milliseconds: 1, points: 10 }
        ],
        6
      )
    ).to.deep.equal([4, 2]);
    expect(
      sharedTime(
        [
          { milliseconds: 0, points: 0 },
          { milliseconds: 0, points: 0 }
        ],
        6
      )
    ).to.deep.equal([3, 3]);
  });
});
