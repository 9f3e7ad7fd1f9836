import { expect } from 'chai';
import fc from 'fast-check';
import { alarm, rule } from '../../../../tests/support/alarm';
import { plainSignal } from '../signal';
import { duration, instant, minute, type Instant } from '../time';
import {
  alarmSchema,
  alarmSentence,
  watchedTitle,
  watchedUnit,
  completeUntil,
  graver,
  judgeCells,
  judgeWindow,
  nextState,
  peakBetween,
  rehearse,
  severityBalls,
  suggestCondition,
  worstPeriod,
  type State
} from './index';

const seen = (smallest: number, largest: number) => ({ smallest, largest, isWhole: false });

describe('judging a window', () => {
  it('above is strictly above, below strictly below', () => {
    expect(judgeWindow([80], 0, rule(1, 1)).verdict).to.equal('clear');
    expect(judgeWindow([80.0001], 0, rule(1, 1)).verdict).to.equal('raised');
    expect(judgeWindow([80], 0, rule(1, 1, { condition: { is: 'below', threshold: 80 } })).verdict).to.equal('clear');
  });

  it('cannot tell only when the missing cells could decide', () => {
    const [hi, lo, gap] = [90, 10, NaN];
    expect(judgeWindow([hi, gap, hi], 2, rule(2, 3))).to.deep.equal({ verdict: 'raised', met: 2, missing: 1 });
    expect(judgeWindow([hi, gap, lo], 2, rule(2, 3))).to.deep.equal({ verdict: 'cannot tell', met: 1, missing: 1 });
    expect(judgeWindow([lo, gap, lo], 2, rule(2, 3))).to.deep.equal({ verdict: 'clear', met: 0, missing: 1 });
    expect(judgeWindow([lo], 0, rule(2, 3))).to.deep.equal({ verdict: 'cannot tell', met: 0, missing: 2 });
  });

  it('says what every way of filling the gaps would agree on', () => {
    const cell = fc.constantFrom(90, 10, NaN);
    fc.assert(
      fc.property(fc.array(cell, { minLength: 1, maxLength: 6 }), fc.integer({ min: 1, max: 6 }), (values, wanted) => {
        const kept = rule(Math.min(wanted, values.length), values.length);
        const fillings = values.reduce<number[][]>(
          (lists, value) =>
            lists.flatMap((list) =>
              Number.isNaN(value)
                ? [
                    [...list, 90],
                    [...list, 10]
                  ]
                : [[...list, value]]
            ),
          [[]]
        );
        const verdicts = new Set(
          fillings.map((list) => (list.filter((value) => value > 80).length >= kept.window.needs ? 'raised' : 'clear'))
        );
        expect(judgeWindow(values, values.length - 1, kept).verdict).to.equal(
          verdicts.size === 1 ? [...verdicts][0] : 'cannot tell'
        );
      })
    );
  });
});

describe('the state machine', () => {
  it('follows its table', () => {
    const states: State[] = ['clear', 'raised', 'indeterminate'];
    for (const state of states) {
      expect(nextState(state, 'raised', 'keep')).to.equal('raised');
      expect(nextState(state, 'clear', 'indeterminate')).to.equal('clear');
      expect(nextState(state, 'cannot tell', 'indeterminate')).to.equal('indeterminate');
      expect(nextState(state, 'cannot tell', 'keep')).to.equal(state);
    }
  });

  it('has the example of its documentation', () => {
    expect(judgeCells([70, 90, 90], rule(2, 2), 'clear', 1)).to.deep.equal([
      { index: 2, from: 'clear', to: 'raised', verdict: 'raised', met: 2, missing: 0 }
    ]);
  });

  it('judged in pieces, as the engine does, gives what judging at once gives', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(90, 10, NaN), { maxLength: 40 }),
        fc.integer({ min: 1, max: 5 }),
        fc.nat(40),
        (values, of, cut) => {
          const kept = rule(Math.ceil(of / 2), of);
          const whole = judgeCells(values, kept, 'clear');
          const middle = Math.min(cut, values.length);
          const first = judgeCells(values, kept, 'clear', 0, middle);
          const second = judgeCells(values, kept, first.at(-1)?.to ?? 'clear', middle);
          expect([...first, ...second]).to.deep.equal(whole);
        }
      )
    );
  });
});

describe('a rehearsal', () => {
  const grid = (count: number) => ({ start: instant(0), step: minute, count });

  it('says when each series would have been raised, for how long, and its peak', () => {
    const values = Float64Array.of(10, 90, 95, 99, 20, 10, 10, 10, 91, 92);
    const { periods, windows } = rehearse(grid(10), [{ seriesId: 7, values }], rule(2, 3));
    expect(windows).to.equal(10);
    expect(periods).to.deep.equal([
      { seriesId: 7, from: 3 * minute, to: 6 * minute, peak: 99 },
      { seriesId: 7, from: 10 * minute, to: null, peak: 92 }
    ]);
  });

  it('its worst period is the one farthest beyond the limit, also below it', () => {
    const values = Float64Array.of(50, 5, 50, 2, 50, 7, 50);
    const below = { ...rule(1, 1), condition: { is: 'below' as const, threshold: 10 } };
    const rehearsed = rehearse(grid(7), [{ seriesId: 1, values }], below);
    expect(worstPeriod(rehearsed, below.condition)?.peak).to.equal(2);
    expect(worstPeriod(rehearse(grid(7), [{ seriesId: 1, values }], rule(1, 1)), rule(1, 1).condition)).to.equal(
      undefined
    );
    const above = { ...rule(1, 1), condition: { is: 'above' as const, threshold: 3 } };
    expect(worstPeriod(rehearse(grid(7), [{ seriesId: 1, values }], above), above.condition)?.peak).to.equal(50);
  });

  it('a period outlasts missing data, as an incident does', () => {
    const values = Float64Array.of(90, NaN, NaN, 90, 10);
    const { periods } = rehearse(grid(5), [{ seriesId: 1, values }], rule(1, 1));
    expect(periods).to.have.length(1);
    expect(periods[0]?.to).to.equal(5 * minute);
  });

  it('counts as many periods as a person would who replays it cell by cell', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(90, 10, NaN), { maxLength: 50 }),
        fc.integer({ min: 1, max: 4 }),
        (values, of) => {
          const kept = rule(1, of);
          let open = false;
          let count = 0;
          for (let i = 0; i < values.length; i++) {
            const window = values.slice(Math.max(0, i - of + 1), i + 1);
            const unknown = window.filter(Number.isNaN).length + Math.max(0, of - 1 - i);
            if (window.some((value) => value > 80)) {
              if (!open) count++;
              open = true;
            } else if (unknown === 0) open = false;
          }
          const { periods } = rehearse(grid(values.length), [{ seriesId: 1, values: Float64Array.from(values) }], kept);
          expect(periods).to.have.length(count);
        }
      )
    );
  });

  it('the peak of a "below" alarm is the lowest value', () => {
    expect(peakBetween([5, 1, NaN, 3], 0, 3, { is: 'below', threshold: 2 })).to.equal(1);
    expect(peakBetween([NaN], 0, 0, { is: 'below', threshold: 2 })).to.deep.equal(NaN);
  });
});

describe('when cells are complete', () => {
  const usual = {
    now: 600_000 as Instant,
    newest: 480_000 as Instant,
    sampling: minute,
    delay: duration(50_000),
    askedUntil: 590_000 as Instant,
    failing: false
  };

  it('as far as the newest sample reaches, or as nothing more can come', () => {
    expect(completeUntil(usual, minute)).to.equal(540_000);
    expect(completeUntil({ ...usual, newest: null, askedUntil: 299_000 as Instant }, minute)).to.equal(240_000);
    expect(completeUntil({ ...usual, newest: null, askedUntil: null }, minute)).to.equal(0);
  });

  it('silence counts once asking has failed for five minutes, and not before', () => {
    const silent = { ...usual, newest: 60_000 as Instant, askedUntil: 120_000 as Instant };
    expect(completeUntil(silent, minute)).to.equal(120_000);
    expect(completeUntil({ ...silent, failing: true }, minute)).to.equal(300_000);
  });

  it('is never after now, even when a clock was set back', () => {
    fc.assert(
      fc.property(fc.nat(10 ** 7), fc.nat(10 ** 7), fc.nat(10 ** 7), fc.boolean(), (now, newest, asked, failing) => {
        const until = completeUntil(
          { ...usual, now: now as Instant, newest: newest as Instant, askedUntil: asked as Instant, failing },
          minute
        );
        expect(until).to.be.at.most(now);
        expect(until % minute).to.equal(0);
      })
    );
  });
});

describe('an alarm', () => {
  it('is said in one sentence', () => {
    const words = { title: 'Processor use', unit: '%', resourceType: 'machine' };
    expect(alarmSentence(alarm, () => words)).to.equal(
      'Raise major when average processor use of each machine in corallo-prod is above 80 % in 3 of the last 5 windows of 1 minute.'
    );
  });

  it('on a formula says it, with the threshold in the unit of the signal', () => {
    const composed = {
      ...alarm,
      signal: {
        version: 2 as const,
        rows: [...alarm.signal.rows, { name: 'share', formula: 'a / 2' }],
        step: 'PT5M',
        unit: '%'
      }
    };
    expect(alarmSentence(composed, () => undefined)).to.equal(
      'Raise major when share, which is a / 2, is above 80 % in 3 of the last 5 windows of 5 minutes.'
    );
    expect([watchedTitle(composed, () => undefined), watchedUnit(composed.signal, () => undefined)]).to.deep.equal([
      composed.name,
      '%'
    ]);
    const rate = plainSignal({ metric: 'm', statistic: 'rate' });
    expect(watchedUnit(rate, () => ({ unit: 'By' }))).to.equal('By/s');
  });

  it('with a window that needs more cells than it has, or no number, is refused', () => {
    const messages = (value: unknown) => alarmSchema.safeParse(value).error?.issues.map(({ message }) => message) ?? [];
    expect(messages(alarm)).to.deep.equal([]);
    expect(messages({ ...alarm, rule: rule(6, 5) })).to.deep.equal(['The window cannot need more cells than it has.']);
    expect(messages({ ...alarm, rule: rule(1, 1, { condition: { is: 'above', threshold: NaN } }) })).to.deep.equal([
      'The threshold must be a number.'
    ]);
    expect(messages({ ...alarm, name: ' ' })).to.have.length(1);
  });

  it('severities are ordered', () => {
    expect(severityBalls('critical')).to.equal(4);
    expect(graver('minor', 'major')).to.equal('major');
    expect([graver(null, 'warning'), graver('warning', null), graver(null, null)]).to.deep.equal([
      'warning',
      'warning',
      null
    ]);
  });

  it('of what is yes or no, or a share, can be reached', () => {
    const of = (smallest: number, largest: number, isWhole: boolean) =>
      suggestCondition('1', { smallest, largest, isWhole });
    expect(of(0, 0, true)).to.deep.equal({ is: 'above', threshold: 0 });
    expect(of(1, 1, true)).to.deep.equal({ is: 'below', threshold: 1 });
    expect(of(0, 1, true)).to.deep.equal({ is: 'above', threshold: 0 });
    expect(of(0.1, 0.4, false)).to.deep.equal({ is: 'above', threshold: 0.8 });
    expect(of(0.995, 1, false)).to.deep.equal({ is: 'below', threshold: 0.99 });
    expect(of(0, 3, true)).to.deep.equal({ is: 'above', threshold: 3.6 });
  });

  it('gets a first condition that suits its unit, and what always stays at the top', () => {
    const above = (threshold: number) => ({ is: 'above', threshold });
    expect([
      suggestCondition('%', seen(0, 3)),
      suggestCondition('%', seen(99.2, 100)),
      suggestCondition('By/s', seen(1, 10_400_000)),
      suggestCondition('By', seen(NaN, NaN))
    ]).to.deep.equal([above(80), { is: 'below', threshold: 99 }, above(12_000_000), above(1)]);
  });
});
