import { expect } from 'chai';
import fc from 'fast-check';
import { mended, unstorable, unstorableIn } from './storable';

describe('text that cannot be stored', () => {
  it('is found wherever it stands, among keys too', () => {
    expect(unstorable('a\0')).to.contain('code 0');
    expect(unstorable('a\ud800')).to.contain('half of a character');
    expect(unstorable('a\ud83d\ude00')).to.equal(null);
    expect(unstorableIn({ rows: [{ metric: 'a\0' }] })).to.include({ path: 'rows.0.metric' });
    expect(unstorableIn({ labels: { 'k\0': 1 } })).to.include({ path: 'labels' });
  });

  it('is mended where refusing it would lose the thing, and nothing else is changed', () => {
    const odd = { name: 'till\0', tags: { 'k\ud800': ['v\0', 3] }, none: null };
    expect(mended(odd)).to.deep.equal({ name: 'till␀', tags: { 'k\ufffd': ['v␀', 3] }, none: null });
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const after = mended(value);
        expect(unstorableIn(after)).to.equal(null);
        if (unstorableIn(value) === null) expect(after).to.deep.equal(value);
      })
    );
  });
});
