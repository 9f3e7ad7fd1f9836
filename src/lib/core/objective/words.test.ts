import { expect } from 'chai';
import { chanceOf } from '../../../../tests/support/chance';
import { leftText, minutesText, promiseWords, rateText, shareText } from './words';

describe('promises in words', () => {
  it('a share that is not whole is never written as 100 %, and one that is not nothing never as 0', () => {
    expect([1, 0.99943, 0.999, 0.5, 0, 0.9999999].map(shareText)).to.deep.equal([
      ...['100 %', '99.943 %', '99.9 %', '50 %', '0 %', '99.99999 %']
    ]);
    const { between } = chanceOf(3);
    for (let round = 0; round < 500; round++) {
      const share = 1 - 10 ** between(-6, 0);
      const text = shareText(share);
      expect(text, String(share)).to.match(/^-?\d+(\.\d+)? %$/);
      expect(Number.parseFloat(text), String(share)).to.be.closeTo(share * 100, 0.6 * (100 - share * 100) + 0.06);
      expect(text, String(share)).not.to.equal('100 %');
    }
  });

  it('what is left of a budget is whole per cent; a little is a little, spent is nothing', () => {
    expect([1, 0.412, 0.004, 0, -3].map(leftText)).to.deep.equal(['100 %', '41 %', '1 %', '0 %', '0 %']);
  });

  it('spans and rates are as people say them', () => {
    expect([5, 60, 360, 4320].map(minutesText)).to.deep.equal(['5 min', '1 h', '6 h', '3 d']);
    expect([1, 14.44, 6, 99.96, 250.4].map(rateText)).to.deep.equal(['1 ×', '14.4 ×', '6 ×', '100 ×', '250 ×']);
  });

  it('a promise is one sentence', () => {
    expect(promiseWords({ targetPercent: 99.9, period: { kind: 'rolling', days: 30 } })).to.equal(
      '99.9 % is to be good in every 30 days.'
    );
    const quarter = { kind: 'calendar', unit: 'quarter', zone: 'Europe/Rome' } as const;
    expect(promiseWords({ targetPercent: 95, period: quarter })).to.equal('95 % is to be good in every quarter.');
  });
});
