import { expect } from 'chai';
import fc from 'fast-check';
import { gridOver, instantFromText, range, textFromInstant, type Duration } from '$lib/core/time';
import { cellOfInstant, hueOf, hues, startOfCell } from './picture';

describe('the cells of a picture', () => {
  const day = (from: string, to: string) => {
    const { start, step, count, calendar } = gridOver(
      range(instantFromText(from), instantFromText(to)),
      86_400_000 as Duration,
      'Europe/Madrid'
    );
    return { start, step, count, calendar };
  };

  it('begin where a person’s days begin, on the days that have 23 and 25 hours too', () => {
    const spring = day('2026-03-28T12:00:00Z', '2026-03-31T12:00:00Z');
    expect(Array.from({ length: spring.count }, (_, cell) => textFromInstant(startOfCell(spring, cell)))).to.deep.equal(
      ['2026-03-27T23:00:00.000Z', '2026-03-28T23:00:00.000Z', '2026-03-29T22:00:00.000Z', '2026-03-30T22:00:00.000Z']
    );
    const autumn = day('2026-10-24T12:00:00Z', '2026-10-26T12:00:00Z');
    expect(startOfCell(autumn, 2) - startOfCell(autumn, 1)).to.equal(25 * 3_600_000);
  });

  it('hold every instant from their start to the next', () => {
    const pictures = [
      day('2026-03-28T12:00:00Z', '2026-03-31T12:00:00Z'),
      day('2026-10-24T12:00:00Z', '2026-10-26T12:00:00Z'),
      { start: 0, step: 60_000, count: 100 }
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...pictures),
        fc.nat(99),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (picture, of, at) => {
          const cell = of % picture.count;
          const from = startOfCell(picture, cell);
          const to = cell + 1 < picture.count ? startOfCell(picture, cell + 1) : from + picture.step;
          const within = Math.min(to - 1, Math.floor(from + at * (to - from)));
          expect(cellOfInstant(picture, within)).to.equal(cell);
        }
      )
    );
  });

  it('are not before the first', () => {
    expect(cellOfInstant({ start: 60_000, step: 60_000, count: 2 }, 59_999)).to.be.below(0);
  });
});

describe('the hue of a resource', () => {
  it('goes round, dashed every second time, and is the same wherever the resource is shown', () => {
    expect(hueOf(1)).to.deep.equal({ hue: 1, dashed: false });
    expect(hueOf(hues)).to.deep.equal({ hue: hues, dashed: false });
    expect(hueOf(hues + 1)).to.deep.equal({ hue: 1, dashed: true });
    expect(hueOf(2 * hues + 1)).to.deep.equal({ hue: 1, dashed: false });
    const looks = new Set(Array.from({ length: 2 * hues }, (_, i) => JSON.stringify(hueOf(i + 1))));
    expect(looks.size, 'sixteen that follow each other are told apart').to.equal(2 * hues);
  });
});
