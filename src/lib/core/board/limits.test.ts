import { expect } from 'chai';
import { cellLimitSchema, limitsIn, limitWords, reached, reaches, type CellLimit } from './limits';

describe('a limit of a figure', () => {
  const above: CellLimit = { value: 80, severity: 'major' };
  const below: CellLimit = { value: 5, is: 'below', severity: 'minor' };
  const equal: CellLimit = { value: 0.3, is: 'equal', severity: 'critical' };
  const named: CellLimit = { matches: 'booking-*', severity: 'warning' };

  it('is reached by what is above, below or equal to it, or has its name', () => {
    expect([reaches(above, 80.1, 'a'), reaches(above, 80, 'a')]).to.deep.equal([true, false]);
    expect([reaches(below, 4.9, 'a'), reaches(below, 5, 'a')]).to.deep.equal([true, false]);
    expect([reaches(equal, 0.1 + 0.2, 'a'), reaches(equal, 0.31, 'a')]).to.deep.equal([true, false]);
    expect([reaches(named, 0, 'booking-web-1'), reaches(named, 0, 'fares')]).to.deep.equal([true, false]);
  });

  it('is reached by no gap, but by its name', () => {
    expect([above, below, equal].some((limit) => reaches(limit, NaN, 'a'))).to.equal(false);
    expect(reaches(named, NaN, 'booking-web-1')).to.equal(true);
  });

  it('of several is the gravest, of equally grave ones the first', () => {
    const other: CellLimit = { value: 60, severity: 'major' };
    expect(reached([named, other, above], 90, 'booking-1')).to.equal(other);
    expect(reached([named], 90, 'fares')).to.equal(null);
    expect(reached(undefined, 90, 'fares')).to.equal(null);
  });

  it('is written with its unit, or in its own words', () => {
    expect([above, below, equal, named].map((limit) => limitWords(limit, '%'))).to.deep.equal([
      'above 80 %',
      'below 5 %',
      'equal to 0.3 %',
      'named booking-*'
    ]);
    expect(limitWords({ ...above, text: 'too busy' }, '%')).to.equal('too busy');
  });

  it('stays where it was when numbers are shown in another unit', () => {
    const [value, name] = [{ value: 212, severity: 'major' } as const, named];
    const [converted, kept] = limitsIn([value, name], '[degF]', 'Cel');
    expect('value' in converted! && converted.value).to.be.closeTo(100, 1e-9);
    expect(kept).to.equal(named);
    expect(limitsIn([value], 'By', 's')).to.deep.equal([value]);
  });

  it('is either of a value or of a name', () => {
    const fits = (value: unknown) => cellLimitSchema.safeParse(value).success;
    expect([fits(above), fits(named)]).to.deep.equal([true, true]);
    for (const wrong of [
      { severity: 'major' },
      { value: NaN, severity: 'major' },
      { ...above, matches: '*' },
      { matches: '', severity: 'major' }
    ])
      expect(fits(wrong), JSON.stringify(wrong)).to.equal(false);
  });
});
