import { expect } from 'chai';
import fc from 'fast-check';
import { SlowWork } from './slow-work';

describe('what took long', () => {
  it('is added up for each piece, as a slow reference does', () => {
    const noted = fc.array(fc.record({ key: fc.constantFrom('a', 'b', 'c'), took: fc.nat(1000), wait: fc.nat(30) }), {
      maxLength: 60
    });
    fc.assert(
      fc.property(noted, (all) => {
        let now = 0;
        const slow = new SlowWork(() => now, 1e9);
        for (const { key, took, wait } of all) {
          now += wait;
          slow.note('panels', key, took);
        }
        for (const by of ['total', 'longest'] as const) {
          const found = slow.slowest('panels', 10, by);
          for (const { key, times, total, longest } of found) {
            const own = all.filter((one) => one.key === key).map(({ took }) => took);
            expect([times, total, longest]).to.deep.equal([
              own.length,
              own.reduce((sum, one) => sum + one, 0),
              Math.max(...own)
            ]);
          }
          expect(found.map((one) => one[by])).to.deep.equal(
            found.map((one) => one[by]).sort((one, other) => other - one)
          );
        }
        expect(slow.slowest('panels', 10)).to.have.length(new Set(all.map(({ key }) => key)).size);
        expect(slow.slowest('queries', 10)).to.deep.equal([]);
      })
    );
  });

  it('is remembered for half a day at least, and for a day at most', () => {
    let now = 0;
    const slow = new SlowWork(() => now, 12);
    const keys = () => slow.slowest('pulls', 10).map(({ key }) => key);
    slow.note('pulls', 'first', 5, { id: 1 });
    now = 11;
    slow.note('pulls', 'second', 3);
    now = 12;
    slow.note('pulls', 'second', 4, { id: 2 });
    expect(keys()).to.deep.equal(['second', 'first']);
    expect(slow.slowest('pulls', 10)[0]).to.deep.equal({
      ...{ key: 'second', about: { id: 2 }, times: 2, total: 7, longest: 4, longestAgo: 0 }
    });
    expect(slow.length).to.equal(12);
    now = 23;
    expect(keys()).to.deep.equal(['second', 'first']);
    now = 24;
    expect(keys(), 'what is older than a day').to.deep.equal(['second']);
    expect([slow.slowest('pulls', 10)[0]?.times, slow.length]).to.deep.equal([1, 12]);
    now = 100;
    expect(keys(), 'after a long rest').to.deep.equal([]);
    expect(slow.length).to.equal(0);
  });

  it('has room for so many pieces; those that took least are forgotten', () => {
    const slow = new SlowWork();
    for (let index = 0; index < 20_000; index++)
      slow.note('statements', `select ${index}`, index === 3 ? 1e9 : index % 100);
    expect(slow.slowest('statements', 1)[0]?.key).to.equal('select 3');
    expect(slow.slowest('statements', 100_000).length).to.be.at.most(1000);
    slow.note('statements', 'x'.repeat(4001), 1e12);
    expect(slow.slowest('statements', 1)[0]?.key, 'one that is too long').to.equal('select 3');
  });
});
