import { expect } from 'chai';
import { rule, threshold } from '../../../../tests/support/alarm';
import { hour, instant, instantFromText, minute, range, times, type Instant } from '../time';
import { rehearsalFigures } from './figures';
import { knobOf, proposeLevels, proposeLimit, proposeWindow, withKnob, type Proposal, type Tries } from './propose';
import type { RaisedPeriod } from './rehearse';

const start = instantFromText('2026-11-02T00:00:00Z');
const at = (hours: number) => (start + hours * hour) as Instant;
const period = (seriesId: number, from: number, to: number | null): RaisedPeriod => ({
  ...{ seriesId, from: at(from), to: to === null ? null : at(to), peak: 1, beyond: 1 },
  ...{ severity: 'major', steps: [] }
});
const span = range(at(0), at(14 * 24));

describe('the figures of a rehearsal', () => {
  it('count periods, their lengths, what flaps, and the messages of each hour of the clock', () => {
    const periods = [period(1, 3, 5), period(1, 5.5, 6), period(2, 23, 24.5), period(1, 200, null)];
    const figures = rehearsalFigures(periods, span, 'UTC', []);
    expect([figures.count, figures.perWeek, figures.flapping]).to.deep.equal([4, 2, 1]);
    expect(figures.longest).to.equal(times(136, hour));
    expect(figures.raised).to.equal(140 * hour);
    expect(figures.bySeries.map(({ seriesId, count }) => [seriesId, count])).to.deep.equal([
      [1, 3],
      [2, 1]
    ]);
    const hours = figures.messagesByHour.flatMap((count, of) => (count > 0 ? [[of, count]] : []));
    expect(hours).to.deep.equal([
      [0, 1],
      [3, 1],
      [5, 2],
      [6, 1],
      [8, 1],
      [23, 1]
    ]);
    expect(figures.messagesAtNight).to.equal(5);
    // In Berlin it is an hour later.
    expect(rehearsalFigures(periods, span, 'Europe/Berlin', []).messagesByHour[4]).to.equal(1);
  });

  it('name the known incidents that would have been missed', () => {
    const known = [
      { id: 1, from: at(4), to: at(5) },
      { id: 2, from: at(50), to: at(51) },
      { id: 3, from: at(-9), to: at(-8) },
      { id: 4, from: at(300), to: null }
    ].map((one) => ({ ...one, subject: 'booking-web-1', severity: 'major' as const }));
    const figures = rehearsalFigures([period(1, 3, 5)], span, 'UTC', known);
    expect(figures.missed.map(({ id }) => id)).to.deep.equal([2, 4]);
    expect(figures.known).to.equal(3);
  });

  it('of nothing are nothing', () => {
    const figures = rehearsalFigures([], span, 'UTC', []);
    expect([figures.count, figures.longest, figures.bySeries]).to.deep.equal([0, 0, []]);
  });
});

describe('proposals', () => {
  const endOf = (tries: Tries): Proposal | null => {
    for (;;) {
      const { done, value } = tries.next();
      if (done) return value;
    }
  };
  /** Two weeks of cells of ten minutes; a peak of rising height each day, and noise around 60. */
  const values = Float64Array.from({ length: 2016 }, (_, i) => {
    const dayNumber = Math.floor(i / 144);
    return i % 144 < 6 ? 70 + dayNumber * 2 : 50 + ((i * 37) % 20);
  });
  const rehearsed = {
    data: {
      grid: { start: instant(0), step: times(10, minute), count: values.length },
      columns: [values],
      zone: 'UTC'
    },
    ...{ seriesIds: [1], first: 0, known: [] },
    span: range(instant(0), instant(14 * 24 * hour))
  };

  it('a limit that would have been raised at most so often a week, and hardly more strict', () => {
    const found = endOf(proposeLimit(rule(2, 3, { levels: [threshold('above', 60)] }), rehearsed, 2));
    const knob = found && knobOf(found.rule.levels[0]!.condition);
    expect(found?.count).to.be.at.most(4);
    expect(found?.count).to.be.at.least(3);
    expect(knob?.value).to.be.within(86, 92);
    expect(endOf(proposeLimit(rule(2, 3, { levels: [threshold('above', 95)] }), rehearsed, 2))).to.equal(null);
  });

  it('a window with which nothing flaps', () => {
    const flapping = rule(1, 1, { levels: [threshold('above', 66)] });
    const found = endOf(proposeWindow(flapping, rehearsed));
    expect(found?.flapping).to.equal(0);
    expect(found?.rule.window.needs).to.be.within(2, 6);
    expect(found?.count).to.be.above(5);
    expect(endOf(proposeWindow(rule(3, 3, { levels: [threshold('above', 75)] }), rehearsed))).to.equal(null);
  });

  it('severities that match past incidents: each is found at least as gravely as it was, by as high a limit as that takes', () => {
    const ten = times(10, minute);
    /** The peak of a day: six cells that are as high as it says. */
    const known = (dayNumber: number, severity: 'minor' | 'critical') => ({
      ...{ id: dayNumber, subject: 'fares', severity, from: instant(dayNumber * 24 * hour) },
      to: instant(dayNumber * 24 * hour + 6 * ten)
    });
    const one = rule(2, 3, { levels: [threshold('above', 60, 'minor')] });
    const past = { ...rehearsed, known: [known(6, 'minor'), known(9, 'minor'), known(12, 'critical')] };
    const found = endOf(proposeLevels(one, past));
    expect(found?.missed).to.equal(0);
    const limits = found?.rule.levels.map(({ severity, condition }) => [severity, knobOf(condition)?.value ?? NaN]);
    expect(limits?.map(([severity]) => severity)).to.deep.equal(['minor', 'critical']);
    // The mildest of the minor ones reached 82, the critical one 94.
    expect(limits?.[0]?.[1]).to.be.within(77, 82);
    expect(limits?.[1]?.[1]).to.be.within(89, 94);
    expect(endOf(proposeLevels(found!.rule, past)), 'what matches already is left').to.equal(null);
    expect(endOf(proposeLevels(one, rehearsed)), 'nothing is known').to.equal(null);
  });

  it('keep the distance of a clearing threshold, and what has no number has none', () => {
    const condition = { kind: 'threshold', is: 'above', limit: 80, clear: 70 } as const;
    expect(withKnob(condition, 90)).to.deep.equal({ ...condition, limit: 90, clear: 80 });
    expect(knobOf({ kind: 'absence', for: 'PT5M' })).to.equal(null);
    expect(knobOf({ kind: 'threshold', is: 'below', limit: 5 })).to.deep.equal({ value: 5, stricter: -1 });
  });
});
