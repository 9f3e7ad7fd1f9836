import { expect } from 'chai';
import { after, before, day, hour, instant, minute, times, type Instant } from '../../core/time';
import { lastsWords } from './lasts';
import { leftChart } from './left-chart';
import { levelReached } from './reached';

const until = instant(1_777_900_000_000);
const period = { from: before(until, times(30, day)), to: until };
const dayOf = (at: Instant) => `day ${Math.floor(at / day)}`;
const standing = { left: 0.5, spentSince: null, spentAt: after(until, times(3, day)), until, period };

describe('for how long an error budget lasts, in words', () => {
  it('says it at this pace, beyond the period, not at all, since when, and nothing of what nobody knows', () => {
    expect(lastsWords(standing, true, dayOf)).to.equal('3 d at this pace');
    const soon = { ...standing, spentAt: after(until, times(90, minute)) };
    expect(lastsWords(soon, true, dayOf), 'in one unit').to.match(/^1 h|^2 h|^90 min/);
    expect(lastsWords({ ...standing, spentAt: null }, true, dayOf)).to.equal('not being used');
    const spent = { ...standing, left: -0.2, spentSince: before(until, times(2, day)) };
    expect(lastsWords(spent, true, dayOf)).to.equal(`used up since ${dayOf(before(until, times(2, day)))}`);
    expect(lastsWords({ ...standing, left: null }, true, dayOf)).to.equal('');
  });

  it('looks as far as the period goes: a moving one as long again, one of the calendar to its end', () => {
    const far = { ...standing, spentAt: after(until, times(31, day)) };
    expect(lastsWords(far, true, dayOf)).to.equal('beyond the period');
    const ending = { ...standing, period: { from: before(until, times(20, day)), to: after(until, times(10, day)) } };
    expect(lastsWords({ ...ending, spentAt: after(until, times(11, day)) }, false, dayOf)).to.equal(
      'beyond the period'
    );
    expect(lastsWords({ ...ending, spentAt: after(until, times(9, day)) }, false, dayOf)).to.equal('9 d at this pace');
  });
});

describe('the level that a promise has reached', () => {
  const levels = [
    { severity: 'minor', rate: 1, longMinutes: 4320, shortMinutes: 360 },
    { severity: 'major', rate: 6, longMinutes: 360, shortMinutes: 30 },
    { severity: 'critical', rate: 14.4, longMinutes: 60, shortMinutes: 5 }
  ] as const;
  const reached = (pace: number | null) => levelReached({ levels: [...levels] }, { pace });

  it('is the gravest whose rate the pace is above', () => {
    expect([null, 0, 1, 1.01, 6, 6.1, 14.4, 20].map(reached)).to.deep.equal([
      ...[null, null, null, 'minor', 'minor', 'major', 'major', 'critical']
    ]);
    expect(levelReached({ levels: [] }, { pace: 99 })).to.equal(null);
  });
});

describe('the chart of an error budget', () => {
  const span = { from: instant(0), to: instant(10 * hour) };
  const at = Array.from({ length: 10 }, (_, index) => instant((index + 1) * hour));
  const chart = (values: readonly number[]) =>
    leftChart({ span, at, values, day: (moment) => `${moment / hour} h` }, (name) => `<${name}>`);

  it('has a line of what is left in per cent, without what nobody counted, and one at nothing', () => {
    const [dataset] = chart([1, 0.9, NaN, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2]).data.datasets;
    const [nothing, left] = (dataset as unknown as { courses: { values: Float64Array; at: Float64Array }[] }).courses;
    expect([...(nothing?.values ?? [])]).to.deep.equal([0, 0]);
    expect([...(left?.values ?? [])]).to.deep.equal([100, 90, 80, 70, 60, 50, 40, 30, 20]);
    expect([...(left?.at ?? [])]).not.to.include(3 * hour);
  });

  it('reaches down to what is overspent, in steps of a quarter, and never beyond twice the budget', () => {
    const floorOf = (values: readonly number[]) => (chart(values).options?.scales?.['y'] as { min: number }).min;
    const rest = Array<number>(9).fill(0.5);
    expect(floorOf([1, ...rest])).to.equal(0);
    expect(floorOf([-0.1, ...rest])).to.equal(-25);
    expect(floorOf([-0.3, ...rest])).to.equal(-50);
    expect(floorOf([-70, ...rest])).to.equal(-200);
    expect(floorOf(Array<number>(10).fill(NaN)), 'nothing counted').to.equal(0);
  });

  it('names days and shares on its axes, in the colours of the theme', () => {
    const { options } = chart(Array<number>(10).fill(1));
    const ticks = (name: 'x' | 'y') =>
      (options?.scales?.[name] as unknown as { ticks: { color: string; callback: (value: number) => string } }).ticks;
    expect(ticks('x').callback(2 * hour)).to.equal('2 h');
    expect(ticks('y').callback(50)).to.equal('50 %');
    expect(ticks('x').color).to.equal('<--quiet>');
  });
});
