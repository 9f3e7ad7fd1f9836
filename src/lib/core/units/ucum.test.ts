import ucum from '@lhncbc/ucum-lhc';
import { expect } from 'chai';
import fc from 'fast-check';
import { conversion, isCode, rescaling, unit } from './index';
import { alike, findUnits } from './find';
import { everyAtom } from './atom';
import { measureOf, sameExponents, termOf } from './term';

const reference = ucum.UcumLhcUtils.getInstance();

describe('units of UCUM', () => {
  /** The library has lost the stroke of 1/m, 1/in and 1/s, by which these are defined, and gives no numbers for degrees Réaumur. */
  const misread = ['[diop]', '[mesh_i]', 'Bd', '[degRe]'];
  const codes = everyAtom
    .filter(({ measures, code }) => !measures.has(code) && !misread.includes(code))
    .map(({ code }) => code);

  it('are converted as the library of the definitions converts them', () => {
    const pairs = codes.flatMap((one) =>
      codes
        .filter((other) => other !== one && conversion(one, other).kind === 'unit')
        .map((other) => [one, other] as const)
    );
    expect(pairs.length).to.be.greaterThan(2000);
    let compared = 0;
    fc.assert(
      fc.property(fc.constantFrom(...pairs), fc.integer({ min: -400, max: 4000 }), ([from, to], value) => {
        const theirs = reference.convertUnitTo(from, value, to);
        // It cannot convert amounts of substance, whose weights it would have to know,
        if (theirs.status !== 'succeeded' || !Number.isFinite(theirs.toVal)) return;
        compared++;
        const ours = conversion(from, to);
        const result = ours.kind === 'unit' ? value * ours.scale + ours.offset : NaN;
        const size = Math.max(1e-12, Math.abs(theirs.toVal), Math.abs(result));
        expect(Math.abs(result - theirs.toVal) / size, `${value} ${from} in ${to}`).to.be.below(1e-9);
      }),
      { numRuns: 500 }
    );
    expect(compared).to.be.greaterThan(300);
  });

  it('degrees Réaumur boil at 80', () => {
    const converted = conversion('[degRe]', 'Cel');
    expect(converted.kind === 'unit' && 80 * converted.scale + converted.offset).to.be.closeTo(100, 1e-9);
  });

  it('diopters and meshes are of a length, not lengths', () => {
    expect(conversion('[diop]', '/m')).to.include({ kind: 'unit', scale: 1 });
    expect(conversion('/[in_i]', '[mesh_i]')).to.have.property('kind', 'unit');
    expect(conversion('[diop]', 'm').kind).to.equal('refused');
  });

  it('measure the same where the library says so, put together as well', () => {
    const together = [
      'kBy/min',
      'By.s-1',
      'kW.h',
      'J',
      'm/s2',
      'N/kg',
      'mm[Hg]',
      'Pa',
      '[degF]',
      'K',
      'Cel',
      'm2',
      'L/m',
      '[in_i]'
    ];
    for (const one of together)
      for (const other of together) {
        const same = reference.convertUnitTo(one, 1, other).status === 'succeeded';
        // Information counts as a plain number there, and speeds of it as frequencies.
        if (/By/.test(one) !== /By/.test(other)) continue;
        expect(conversion(one, other).kind, `${one} ${other}`).to.equal(same ? 'unit' : 'refused');
      }
    expect(sameExponents(measureOf(termOf('L/m')).dimensions, measureOf(termOf('m2')).dimensions)).to.equal(true);
  });

  it('are written as people write them', () => {
    const texts = [
      'Cel',
      '[degF]',
      'MBy',
      'GiBy/s',
      'm2',
      'm/s2',
      '10*3',
      '/min',
      'us',
      'kW.h',
      'furlong',
      '{ticket}/h'
    ];
    expect(texts.map((code) => unit(code).text)).to.deep.equal([
      '°C',
      '°F',
      'MB',
      'GiB/s',
      'm²',
      'm/s²',
      'thousand',
      '1/min',
      'µs',
      'kW·h',
      'furlong',
      'ticket/h'
    ]);
  });

  it('are found by name, symbol and code; those that fit first', () => {
    const first = (text: string, from: string | null = null) => findUnits(text, from)[0]?.code;
    expect([first('celsius'), first('°C'), first('mm[Hg]'), first('fahren'), first('mebibyte')]).to.deep.equal([
      'Cel',
      'Cel',
      'mm[Hg]',
      '[degF]',
      'MiBy'
    ]);
    expect(first('kBy/min')).to.equal('kBy/min');
    expect(findUnits('degree', 'K')[0]).to.include({ fits: true });
    expect(findUnits('no such thing', null)).to.deep.equal([]);
    expect(alike('By').map(({ code }) => code)).to.include.members(['MBy', 'GiBy', 'bit']);
    expect(alike('{request}').every(({ fits }) => fits)).to.equal(true);
    expect([isCode('kBy/min'), isCode('furlong'), isCode('')]).to.deep.equal([true, false, false]);
  });

  it('say what they do to numbers', () => {
    expect(rescaling('1', '%', 20.96)).to.equal(
      'Shown in % the numbers are 100 times as large: 20.96 becomes 2,096 %.'
    );
    expect(rescaling('By', 'MBy', 5_000_000)).to.equal(
      'Shown in MB the numbers are divided by 1,000,000: 5,000,000 becomes 5 MB.'
    );
    expect(rescaling('Cel', '[degF]', 20)).to.equal('Shown in °F the numbers are converted: 20 becomes 68 °F.');
    expect([rescaling('By', 'By', 1), rescaling('{request}', '1', 3), rescaling('By', 's', 3)]).to.deep.equal([
      null,
      null,
      null
    ]);
  });
});
