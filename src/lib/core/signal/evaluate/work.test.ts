import { expect } from 'chai';
import { combined } from './combine';
import { cumulated, differences, movingAverage, operate, rounded } from './work';

describe('numbers beyond what can be written', () => {
  const huge = 1.7e308;

  it('are gaps, wherever in a formula they come up: nothing that follows is worked out of infinity', () => {
    const [times, over, plus, minus] = [operate('*'), operate('/'), operate('+'), operate('-')];
    expect(over(1, times(times(5, 1e308), 10)), '1 / (a * 1e308 * 10)').to.be.NaN;
    expect(plus(huge, huge)).to.be.NaN;
    expect(minus(-huge, huge)).to.be.NaN;
    expect(operate('^')(huge, 2)).to.be.NaN;
    expect(operate('<')(times(huge, 10), 1), 'nobody knows').to.be.NaN;
  });

  it('are gaps in sums, running totals, averages and differences', () => {
    expect([...combined([Float64Array.of(huge, 1), Float64Array.of(huge, 2)], 2, 'sum')]).to.deep.equal([NaN, 3]);
    expect([...combined([Float64Array.of(huge), Float64Array.of(huge)], 1, 'avg')]).to.deep.equal([NaN]);
    expect([...cumulated(Float64Array.of(huge, huge, 1))].slice(0, 2)).to.deep.equal([huge, NaN]);
    expect([...differences(Float64Array.of(-huge, huge))]).to.deep.equal([NaN]);
    expect([...movingAverage(Float64Array.of(huge, huge), 2)]).to.deep.equal([NaN]);
    expect(rounded(huge, 3), 'has no digits there').to.equal(huge);
  });
});
