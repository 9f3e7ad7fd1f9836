import { expect } from 'chai';
import fc from 'fast-check';
import { alarm, rule, threshold } from '../../../../tests/support/alarm';
import { plainSignal } from '../signal';
import { duration, minute, type Instant } from '../time';
import {
  alarmSchema,
  alarmSentence,
  completeUntil,
  graver,
  severityBalls,
  suggestCondition,
  watchedTitle,
  watchedUnit
} from './index';

const seen = (smallest: number, largest: number) => ({ smallest, largest, isWhole: false });

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
        rows: [...(alarm.signal?.rows ?? []), { name: 'share', formula: 'a / 2' }],
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
    expect(messages({ ...alarm, rule: rule(1, 1, { levels: [threshold('above', NaN)] }) })).to.deep.equal([
      'The threshold must be a number.'
    ]);
    expect(messages({ ...alarm, name: ' ' })).to.have.length(1);
  });

  it('that would cost or do harm is refused', () => {
    const refused = (changed: object) => alarmSchema.safeParse({ ...alarm, ...changed }).success === false;
    expect(refused({})).to.equal(false);
    expect(refused({ runbook: 'javascript:alert(1)' })).to.equal(true);
    expect(refused({ labels: Object.fromEntries(Array.from({ length: 21 }, (_, i) => [`l${i}`, ''])) })).to.equal(true);
    const change = { kind: 'change', is: 'rise', by: 5, as: 'amount', against: 'week' };
    const over = (length: string) =>
      refused({
        rule: rule(1, 1, { levels: [{ severity: 'major', condition: { ...change, over: length } as never }] })
      });
    expect([over('P1D'), over('P2D')]).to.deep.equal([false, true]);
    const parts = [{ alarm: 1 }, { alarm: 2 }];
    const combined = (step: string) =>
      refused({
        signal: undefined,
        combines: { parts, by: [], step },
        rule: rule(1, 1, { levels: [{ severity: 'major', condition: { kind: 'combined', needs: 'all' } }] })
      });
    expect([combined('PT5M'), combined('P1D'), combined('x')]).to.deep.equal([false, true, true]);
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
    expect(of(0, 0, true)).to.deep.equal({ kind: 'threshold', is: 'above', limit: 0 });
    expect(of(1, 1, true)).to.deep.equal({ kind: 'threshold', is: 'below', limit: 1 });
    expect(of(0, 1, true)).to.deep.equal({ kind: 'threshold', is: 'above', limit: 0 });
    expect(of(0.1, 0.4, false)).to.deep.equal({ kind: 'threshold', is: 'above', limit: 0.8 });
    expect(of(0.995, 1, false)).to.deep.equal({ kind: 'threshold', is: 'below', limit: 0.99 });
    expect(of(0, 3, true)).to.deep.equal({ kind: 'threshold', is: 'above', limit: 3.6 });
  });

  it('gets a first condition that suits its unit, and what always stays at the top', () => {
    const above = (limit: number) => ({ kind: 'threshold', is: 'above', limit });
    expect([
      suggestCondition('%', seen(0, 3)),
      suggestCondition('%', seen(99.2, 100)),
      suggestCondition('By/s', seen(1, 10_400_000)),
      suggestCondition('By', seen(NaN, NaN))
    ]).to.deep.equal([above(80), { kind: 'threshold', is: 'below', limit: 99 }, above(12_000_000), above(1)]);
  });
});
