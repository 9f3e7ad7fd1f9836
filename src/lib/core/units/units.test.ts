import { expect } from 'chai';
import fc from 'fast-check';
import {
  columnPlaces,
  axisEnds,
  addUnits,
  conversion,
  digits,
  limitText,
  displayScale,
  divideUnits,
  isPlain,
  multiplyUnits,
  quantity,
  quantityText,
  raiseUnit,
  unit,
  type DerivedUnit
} from './index';

describe('a column of numbers', () => {
  it('has no digits after the point for whole numbers, and else as many as line up', () => {
    const columns = [[0, 3, 0], [0.25, 0.03, NaN], [3.05, 12], [20.2, 17], [1141.7], [NaN], []];
    expect(columns.map(columnPlaces)).to.deep.equal([0, 3, 1, 1, 0, 0, 0]);
  });
});

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
    expect(quantityText(99.96, '%')).to.equal('99.96 %');
    expect(quantityText(7_800_000, 'By/s')).to.equal('7.44 MiB/s');
  });

  it('a gap is words, never a number', () => {
    for (const gap of [NaN, Infinity, -Infinity])
      expect(quantity(gap, '%')).to.deep.equal({ number: 'no data', unit: '' });
  });

  it('an unknown unit is shown as it stands', () => {
    expect(quantityText(12, '{ticket}/h')).to.equal('12 ticket/h');
    expect(['{request}', '{copy}', '{status}'].map((code) => unit(code).text)).to.deep.equal([
      'requests',
      'copies',
      'status'
    ]);
    expect(unit('%').bounds).to.deep.equal([0, 100]);
  });

  it('one axis has one scale, chosen by its largest value', () => {
    expect(displayScale('By', [12, 1536, NaN])).to.deep.equal({ divisor: 1024, text: 'KiB' });
    expect(displayScale('By', [])).to.deep.equal({ divisor: 1, text: 'B' });
  });

  it('has the digits that tell a value from the top of its unit, or those that are asked for', () => {
    const told = (value: number, fraction?: number) => quantityText(value, '%', fraction);
    expect([93.42, 99.7, 99.99, 99.9994, 100, 3.14159].map((value) => told(value))).to.deep.equal([
      '93.4 %',
      '99.7 %',
      '99.99 %',
      '99.9994 %',
      '100 %',
      '3.14 %'
    ]);
    expect([told(99.99, 1), told(7, 2), quantityText(1536, 'By', 3)]).to.deep.equal(['100.0 %', '7.00 %', '1.500 KiB']);
  });

  it('tells a limit as it was set', () => {
    expect([limitText(100.5, '%'), limitText(99.99, '%'), limitText(12_345, '1'), limitText(1536, 'By')]).to.deep.equal(
      ['100.5 %', '99.99 %', '12.345 k', '1.5 KiB']
    );
    expect(limitText(NaN, '%')).to.equal('no limit');
  });

  it('keeps three significant digits, and the whole part whole', () => {
    expect([0, 1141.7, 91.26, 0.00424, -12.345].map((value) => digits(value))).to.deep.equal([
      '0',
      '1,142',
      '91.3',
      '0.00424',
      '-12.3'
    ]);
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e12, noNaN: true }), (value) => {
        const read = Number(digits(value).replaceAll(',', ''));
        expect(Math.abs(read - value) / value).to.be.at.most(0.0051);
      })
    );
  });
});

describe('the axis of a bounded unit', () => {
  it('runs from end to end, and shows only where everything lies when that is at an end', () => {
    const ends = (least: number, most: number) => axisEnds([0, 100], least, most);
    expect([ends(3, 97), ends(98.9, 100), ends(0, 1.1), ends(Infinity, -Infinity)]).to.deep.equal(
      Array.from({ length: 4 }, () => [0, 100])
    );
    expect([ends(99.7, 99.9), ends(99.95, 99.99), ends(0.1, 0.4), ends(0, 0.02)]).to.deep.equal([
      [99, 100],
      [99.9, 100],
      [0, 1],
      [0, 0.1]
    ]);
    expect([ends(100, 100), ends(0, 0)], 'always full, always empty').to.deep.equal([
      [0, 100],
      [0, 100]
    ]);
  });

  it('holds whatever is drawn, and never reaches beyond the unit', () => {
    const value = fc.double({ min: 0, max: 100, noNaN: true });
    fc.assert(
      fc.property(value, value, (one, other) => {
        const [low, high] = axisEnds([0, 100], Math.min(one, other), Math.max(one, other));
        expect(low >= 0 && high <= 100 && low <= Math.min(one, other) && high >= Math.max(one, other)).to.equal(true);
      })
    );
  });
});

describe('arithmetic on units', () => {
  const told = (unit: DerivedUnit) => (unit.kind === 'unit' ? [unit.code, unit.scale] : unit.why);

  it('multiplies, divides and cancels', () => {
    expect(told(divideUnits('By', 's'))).to.deep.equal(['By/s', 1]);
    expect(told(multiplyUnits('By/s', 's'))).to.deep.equal(['By', 1]);
    expect(told(divideUnits('By', 'KiBy'))).to.deep.equal(['1', 1 / 1024]);
    expect(told(divideUnits('{request}', '{request}'))).to.deep.equal(['1', 1]);
    expect(told(divideUnits('{request}', 's'))).to.deep.equal(['{request}/s', 1]);
    expect(told(multiplyUnits('%', '1'))).to.deep.equal(['%', 1]);
    expect(told(multiplyUnits('%', 'By'))).to.deep.equal(['%.By', 1]);
    expect(told(divideUnits('%', '%'))).to.deep.equal(['1', 1]);
    expect(told(raiseUnit('s2', 0.5))).to.deep.equal(['s', 1]);
    expect(told(raiseUnit('s', 0.5))).to.equal('s to the power of 0.5 has no unit');
  });

  it('adds what measures the same, converting the right side, and refuses the rest', () => {
    expect(told(addUnits('s', 'ms'))).to.deep.equal(['s', 1e-3]);
    expect(told(addUnits('By', 'MiBy'))).to.deep.equal(['By', 2 ** 20]);
    expect(told(addUnits('{request}', '{error}'))).to.deep.equal(['1', 1]);
    expect(told(addUnits('By', '%'))).to.equal('B and % do not measure the same');
    expect(told(addUnits('{request}', '%'))).to.equal('requests and % do not measure the same');
    expect(told(addUnits('{ticket}/fortnight', '{ticket}/fortnight'))).to.deep.equal(['{ticket}/fortnight', 1]);
    expect(told(addUnits('furlong', 's'))).to.equal('furlong and s do not measure the same');
    expect(told(conversion('1', '%'))).to.deep.equal(['%', 100]);
    expect(told(conversion('By/s', 'bit/s'))).to.deep.equal(['bit/s', 8]);
    expect(told(conversion('h', 'min'))).to.deep.equal(['min', 60]);
    expect(told(conversion('constructor', 's'))).to.be.a('string');
    expect([isPlain('%'), isPlain('{request}'), isPlain('By')]).to.deep.equal([true, true, false]);
  });

  it('dividing by what one multiplied with gives the unit back', () => {
    const code = fc.constantFrom('By', 's', 'ms', '{request}', 'By/s', 'KiBy', 'J', '1', 'm2', 'bit/s');
    fc.assert(
      fc.property(code, code, (one, other) => {
        const product = multiplyUnits(one, other);
        if (product.kind !== 'unit') throw new Error('a product is never refused');
        const back = divideUnits(product.code, other);
        const scale = conversion(back.kind === 'unit' ? back.code : '', one);
        expect(scale.kind === 'unit' && back.kind === 'unit' && scale.scale * back.scale * product.scale).to.be.closeTo(
          1,
          1e-12
        );
      })
    );
  });
});
