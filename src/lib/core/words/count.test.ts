import { expect } from 'chai';
import { countOf, formOf } from './count';

describe('numbers with their nouns', () => {
  it('are in the singular for one only, and separate thousands', () => {
    expect([0, 1, 2, 12_345].map((count) => countOf(count, 'board'))).to.deep.equal([
      '0 boards',
      '1 board',
      '2 boards',
      '12,345 boards'
    ]);
    expect(countOf(2, 'query', 'queries')).to.equal('2 queries');
    expect([formOf(1, 'is', 'are'), formOf(3, 'is', 'are')]).to.deep.equal(['is', 'are']);
  });
});
