import { expect } from 'chai';
import fc from 'fast-check';
import { hour, instant, instantFromText, minute, times, type Duration, type Grid } from '../../time';
import { movingAverage } from './change';
import { beyondAt, cellCode, codesOf, compareWith, conditionSchema, conditionText, type Condition } from './index';
import { timesOfCells, timesText } from './times';

const gridOf = (count: number, step: Duration = minute, start = 0): Grid => ({ start: instant(start), step, count });
const words = { limit: (value: number) => `${value} %` };
const { met, well, missing, between } = cellCode;

/** What the cells of one series say of a condition. */
function codes(condition: Condition, values: readonly number[], more: object = {}): number[] {
  const columns = [Float64Array.from(values)];
  const [comparison] = compareWith(condition, { grid: gridOf(values.length), columns, zone: 'UTC', ...more });
  return [...codesOf(comparison!, 0, values.length)];
}

describe('thresholds', () => {
  it('inside and outside include or exclude their bounds as people say them', () => {
    const outside = { kind: 'threshold', is: 'outside', low: 10, high: 20 } as const;
    expect(codes(outside, [9, 10, 15, 20, 21, NaN])).to.deep.equal([met, well, well, well, met, missing]);
    const inside = { kind: 'threshold', is: 'inside', low: 10, high: 20, clearLow: 8, clearHigh: 22 } as const;
    expect(codes(inside, [7, 9, 10, 20, 21, 23])).to.deep.equal([well, between, met, met, between, well]);
  });

  it('differ by calendar: the first exception whose times hold counts, and clearing thresholds keep their distance', () => {
    const condition = conditionSchema.parse({
      kind: 'threshold',
      is: 'above',
      limit: 80,
      clear: 70,
      exceptions: [
        { times: { hours: { from: '02:00', to: '03:00' } }, off: true },
        { times: { hours: { from: '00:00', to: '06:00' } }, limit: 95 }
      ]
    });
    const values = Array.from({ length: 8 }, () => 90);
    const columns = [Float64Array.from(values)];
    const [comparison] = compareWith(condition, { grid: gridOf(8, hour), columns, zone: 'UTC' });
    expect([...codesOf(comparison!, 0, 8)]).to.deep.equal([
      ...[between, between, well, between, between, between],
      ...[met, met]
    ]);
    expect(conditionText(condition, words)).to.equal(
      'is above 80 %; never during 02:00 to 03:00; 95 % during 00:00 to 06:00'
    );
  });

  it('switched off inside of two bounds are never met', () => {
    const condition = conditionSchema.parse({
      kind: 'threshold',
      is: 'inside',
      low: 0,
      high: 100,
      exceptions: [{ times: { weekdays: [4] }, off: true }]
    });
    expect(codes(condition, [50, 200])).to.deep.equal([well, well]); // 1970 began on a Thursday
  });

  it('a clearing threshold on the wrong side is refused', () => {
    const problems = (value: object) =>
      conditionSchema.safeParse(value).error?.issues.map(({ path }) => path.join('.'));
    expect(problems({ kind: 'threshold', is: 'above', limit: 80, clear: 90 })).to.deep.equal(['clear']);
    expect(problems({ kind: 'threshold', is: 'below', limit: 80, clear: 70 })).to.deep.equal(['clear']);
    expect(problems({ kind: 'threshold', is: 'outside', low: 20, high: 10 })).to.include('low');
    expect(problems({ kind: 'threshold', is: 'above', limit: Infinity })).to.deep.equal(['limit']);
    const times = { weekdays: [6] };
    const other = (exception: object) =>
      problems({ kind: 'threshold', is: 'above', limit: 80, exceptions: [exception] });
    expect(other({ times, limit: 95 })).to.equal(undefined);
    for (const nonsense of [{ times }, { times, low: 5 }, { times, off: false }, { times: {}, limit: 95 }])
      expect(other(nonsense), JSON.stringify(nonsense)).to.not.equal(undefined);
  });
});

describe('times of a calendar', () => {
  const zone = 'Europe/Berlin';
  const hoursOf = (from: string, count: number, time: object) =>
    [...timesOfCells([time as never], gridOf(count, hour, instantFromText(from)), zone)]
      .map((which, index) => (which === 0 ? index : -1))
      .filter((index) => index >= 0);

  it('are those of the clock on the wall, also on the days on which clocks are changed', () => {
    const nights = { hours: { from: '02:00', to: '04:00' } };
    // 25 October 2026: 02:00 to 03:00 comes twice. 28 March 2027: it does not come at all.
    expect(hoursOf('2026-10-24T22:00:00Z', 25, nights)).to.deep.equal([2, 3, 4]);
    expect(hoursOf('2027-03-27T23:00:00Z', 23, nights)).to.deep.equal([2]);
    expect(hoursOf('2026-07-01T22:00:00Z', 24, nights)).to.deep.equal([2, 3]);
  });

  it('that pass midnight belong to the day on which they begin', () => {
    const friday = { weekdays: [5], hours: { from: '22:00', to: '02:00' } };
    // From Friday 27 November 2026, 00:00 in the zone, over two days.
    expect(hoursOf('2026-11-26T23:00:00Z', 48, friday)).to.deep.equal([22, 23, 24, 25]);
    expect(hoursOf('2026-11-26T23:00:00Z', 48, { dates: [{ from: '2026-11-28', to: '2026-11-28' }] })).to.have.length(
      24
    );
  });

  it('are said in words', () => {
    expect(timesText({ weekdays: [1, 2, 3, 4, 5], hours: { from: '08:00', to: '18:00' } })).to.equal(
      'Mon to Fri, 08:00 to 18:00'
    );
    expect(timesText({ weekdays: [6, 7] })).to.equal('Sat and Sun');
  });
});

describe('changes', () => {
  it('against the window before compare averages of as many cells', () => {
    const condition = { kind: 'change', is: 'rise', by: 50, as: 'percent', against: 'before', over: 'PT2M' } as const;
    expect(codes(condition, [10, 10, 14, 14, 20, 30])).to.deep.equal([missing, missing, well, well, well, met]);
    const fall = { ...condition, is: 'fall', by: 5, as: 'amount' } as const;
    expect(codes(fall, [20, 20, 15, 14, 14, 14])).to.deep.equal([missing, missing, well, met, well, well]);
  });

  it('against a day or a week earlier compare the same hour of the clock', () => {
    const zone = 'Europe/Berlin';
    // Clocks are set back in the night to 25 October 2026: 09:00 is 08:00 UTC then, and was 07:00 UTC the day before.
    const start = instantFromText('2026-10-24T00:00:00Z');
    const count = 48;
    const values = Float64Array.from({ length: count }, (_, i) => i);
    const grid = gridOf(count, hour, start);
    const [comparison] = compareWith(
      { kind: 'change', is: 'rise', by: 1, as: 'amount', against: 'day', over: 'PT1H' },
      { grid, columns: [values], zone }
    );
    const high = comparison!.high as Float64Array;
    const at = (text: string) => (instantFromText(text) - start) / hour;
    expect(high[at('2026-10-25T08:00:00Z')]).to.equal(at('2026-10-24T07:00:00Z') + 1);
    expect(high[at('2026-10-24T20:00:00Z')], 'no day before').to.deep.equal(NaN);
  });

  it('average the same wherever reading begins, to the last digit', () => {
    const values = Float64Array.from({ length: 400 }, (_, i) => Math.sin(i) * 1e6 + 0.1 * i);
    const whole = movingAverage(values, 100, 7);
    const later = movingAverage(values.subarray(150), 100, 157);
    expect([...later.subarray(100)]).to.deep.equal([...whole.subarray(250)]);
  });

  it('average what there is, when it is half at least', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.integer({ min: -9, max: 9 }), fc.constant(NaN)), { maxLength: 200 }),
        fc.integer({ min: 1, max: 90 }),
        fc.nat(100),
        (values, cells, first) => {
          const averages = movingAverage(values, cells, first);
          for (const [index, average] of averages.entries()) {
            const window = values.slice(Math.max(0, index - cells + 1), index + 1).filter((one) => !Number.isNaN(one));
            if (window.length === 0 || window.length * 2 < cells) expect(average).to.deep.equal(NaN);
            else expect(average).to.be.closeTo(window.reduce((sum, one) => sum + one, 0) / window.length, 1e-9);
          }
        }
      )
    );
  });
});

describe('absence', () => {
  const absence = { kind: 'absence', for: 'PT3M' } as const;

  it('counts from the newest cell with a value, and a series that never had one is not absent', () => {
    expect(codes(absence, [1, NaN, NaN, NaN, NaN, 1, NaN])).to.deep.equal([well, well, well, met, met, well, well]);
    expect(codes(absence, [NaN, NaN, NaN, NaN])).to.deep.equal([missing, missing, missing, missing]);
  });

  it('goes on from what is remembered', () => {
    expect(codes(absence, [NaN, NaN], { lastValueAt: [instant(0)], grid: gridOf(2, minute, 120_000) })).to.deep.equal([
      well,
      met
    ]);
  });
});

describe('conditions', () => {
  it('how far beyond is measured in the direction of the condition', () => {
    const [below] = compareWith(
      { kind: 'threshold', is: 'below', limit: 10 },
      { grid: gridOf(1), columns: [Float64Array.of(4)], zone: 'UTC' }
    );
    expect(beyondAt(below!, 0)).to.equal(6);
  });

  it('are read as sentences', () => {
    const said = (condition: Condition) => conditionText(condition, words);
    expect(said({ kind: 'band', is: 'above', widths: 4 })).to.equal('is above its anomaly band of 4 widths');
    expect(said({ kind: 'absence', for: 'PT10M' })).to.equal('has had no sample for 10 minutes');
    expect(said({ kind: 'change', is: 'rise', by: 50, as: 'percent', against: 'week', over: 'PT30M' })).to.equal(
      'rises by more than 50 % against the same 30 minutes a week earlier'
    );
    expect(said({ kind: 'forecast', is: 'above', limit: 95, within: 'P4D', from: 'P2D' })).to.equal(
      'will be above 95 % within 4 days, by the trend of 2 days'
    );
    expect(said({ kind: 'rank', is: 'outside', by: 6 })).to.equal(
      'is more than 6 robust deviations away from the median of its peers'
    );
    expect(said({ kind: 'combined', needs: 2 })).to.equal('at least 2 of its parts hold');
  });

  it('lengths of time that are no lengths are refused', () => {
    for (const length of ['10m', 'PT10S', 'P2M', ''])
      expect(conditionSchema.safeParse({ kind: 'absence', for: length }).success, length).to.equal(false);
    expect(times(2, hour)).to.equal(7_200_000);
  });
});
