import { expect } from 'chai';
import fc from 'fast-check';
import { digits, displayScale, quantity, quantityText, unit } from './index';

describe('units', () => {
  it('bytes scale by 1024, seconds to what people say, percent never', () => {
    expect([0, 512, 1536, 5 * 1024 ** 3].map((value) => quantityText(value, 'By'))).to.deep.equal([
      '0 B',
      '512 B',
      '1.5 KiB',
      '5 GiB'
    ]);
    expect([0.0042, 42, 90, 7200].map((value) => quantityText(value, 's'))).to.deep.equal([
      '4.2 ms',
      '42 s',
      '1.5 min',
      '2 h'
    ]);
    expect(quantityText(99.96, '%')).to.equal('100 %');
    expect(quantityText(7_800_000, 'By/s')).to.equal('7.44 MiB/s');
  });

  it('a gap is words, never a number', () => {
    for (const gap of [NaN, Infinity, -Infinity])
      expect(quantity(gap, '%')).to.deep.equal({ number: 'no data', unit: '' });
  });

  it('an unknown unit is shown as it stands', () => {
    expect(quantityText(12, '{ticket}/h')).to.equal('12 ticket/h');
    expect(unit('%').bounds).to.deep.equal([0, 100]);
  });

  it('one axis has one scale, chosen by its largest value', () => {
    expect(displayScale('By', [12, 1536, NaN])).to.deep.equal({ divisor: 1024, text: 'KiB' });
    expect(displayScale('By', [])).to.deep.equal({ divisor: 1, text: 'B' });
  });

  it('keeps three significant digits, and the whole part whole', () => {
    expect([0, 1141.7, 91.26, 0.00424, -12.345].map(digits)).to.deep.equal(['0', '1,142', '91.3', '0.00424', '-12.3']);
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e12, noNaN: true }), (value) => {
        const read = Number(digits(value).replaceAll(',', ''));
        expect(Math.abs(read - value) / value).to.be.at.most(0.0051);
      })
    );
  });
});
