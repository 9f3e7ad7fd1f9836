import { expect } from 'chai';
import { threshold, alarm, rule } from '../../../../../tests/support/alarm';
import { plainSignal } from '../../signal';
import { before, day, duration, instant, minute, times } from '../../time';
import { rehearsalFigures, type RaisedPeriod } from '..';
import type { RehearsalAnswer } from '../rehearsal-answer';
import type { AlarmDefinition } from '../schema';
import { preflight, type PreflightFacts, type PreflightMetric } from './index';

describe('preflight', () => {
  const now = instant(Date.UTC(2026, 10, 27, 12));
  const metric = (name: string, more: Partial<PreflightMetric> = {}): PreflightMetric => ({
    ...{ name, title: name, kind: 'gauge', shape: 'summary', unit: '%' },
    ...{ samplingMs: minute, delayMs: duration(50_000), everyMs: minute },
    ...more
  });
  const rehearsed = (raisedMinutes: readonly number[] = [], more: Partial<RehearsalAnswer> = {}): RehearsalAnswer => {
    const span = { from: before(now, times(14, day)), to: now };
    const periods = raisedMinutes.map((length, i): RaisedPeriod => {
      const from = instant(span.from + i * 3_600_000);
      return {
        ...{ seriesId: 0, from, to: instant(from + length * 60_000), severity: 'major' },
        ...{ steps: [], peak: NaN, beyond: NaN }
      };
    });
    return {
      ...{ ...span, step: minute, unit: '%', windows: 0, milliseconds: 0, periods: [], proposals: [] },
      series: [{ key: '1', labels: {} }],
      seen: { smallest: 3, largest: 70, isWhole: false, filled: 1, newest: now, learned: null },
      figures: rehearsalFigures(periods, span, 'UTC', []),
      ...more
    };
  };
  const facts: PreflightFacts = {
    metrics: [
      metric('machine.processor.use'),
      metric('balancer.latency', { unit: 's' }),
      metric('machine.network.total', { unit: 'By', kind: 'cumulative', shape: 'single' })
    ],
    reachOf: () => ({ route: 'Data', says: 'Data at once', confirmed: 2, unconfirmed: [] }),
    alarms: [],
    id: null,
    rehearsal: rehearsed(),
    now
  };
  const signalOf = (name: string, more: Partial<Parameters<typeof plainSignal>[0]> = {}) =>
    plainSignal({ metric: name, statistic: 'avg', ...more });
  const watching = (name: string, more: Partial<Parameters<typeof plainSignal>[0]> = {}) => ({
    signal: signalOf(name, more)
  });
  const failing = (changed: Partial<AlarmDefinition>, more: Partial<PreflightFacts> = {}) =>
    preflight({ ...alarm, ...changed }, { ...facts, ...more }).filter(({ passed }) => !passed);
  const seen = (more: Partial<RehearsalAnswer['seen']>, raised: readonly number[] = []) => ({
    rehearsal: rehearsed(raised, { seen: { ...rehearsed().seen, ...more } })
  });
  const withMetric = (more: Partial<PreflightMetric>) => ({ metrics: [metric('machine.processor.use', more)] });

  it('passes an alarm that is in order, and says so in sentences', () => {
    expect(failing({})).to.deep.equal([]);
    expect(preflight(alarm, facts).map(({ says }) => says)).to.deep.equal([
      'The route “Data” reaches 2 confirmed channels.',
      'Watches 1 series.',
      'Reported every 1 min, at most 50 s late: raised 3 min 50 s after it starts, at the earliest.',
      'The threshold is in %, as what is watched.',
      'It would not have been raised in the last 14 days.',
      'No other alarm watches the same.'
    ]);
  });

  const band: AlarmDefinition['rule'] = rule(3, 5, {
    levels: [{ severity: 'major', condition: { kind: 'band', is: 'outside', widths: 5 } }]
  });
  const above = (limit: number) => ({ rule: rule(3, 5, { levels: [threshold('above', limit)] }) });
  const combinedOf = (...ids: number[]): AlarmDefinition => ({
    ...{ name: `of ${ids.join()}`, route: null, enabled: true, labels: {}, owner: '', about: '', runbook: '' },
    combines: { parts: ids.map((id) => ({ alarm: id })), by: [], step: 'PT1M' },
    rule: rule(1, 1, { levels: [{ severity: 'major', condition: { kind: 'combined', needs: 'all' } }] })
  });
  const part = (name: string) => ({
    name,
    signal: signalOf('machine.processor.use'),
    condition: { kind: 'threshold' as const, is: 'above' as const, limit: 80 }
  });
  const ofParts: Partial<AlarmDefinition> = {
    ...combinedOf(),
    combines: { parts: [part('a'), part('b')], by: [], step: 'PT1M' },
    route: null,
    signal: undefined
  };
  const cases: [string, Partial<AlarmDefinition>, Partial<PreflightFacts>, fix: 'alarm' | 'open' | 'none'][] = [
    ['notified', {}, { reachOf: () => null }, 'open'],
    ['confirmed', {}, { reachOf: () => ({ route: 'Data', says: '', confirmed: 0, unconfirmed: [] }) }, 'open'],
    ['confirmed', {}, { reachOf: () => ({ route: 'Data', says: '', confirmed: 1, unconfirmed: ['Ivo'] }) }, 'open'],
    ['matches', {}, { rehearsal: rehearsed([], { series: [] }) }, 'alarm'],
    ['matches', { ...watching('machine.processor.use') }, { rehearsal: rehearsed([], { series: [] }) }, 'open'],
    [
      'matches',
      {},
      { rehearsal: rehearsed([], { series: Array.from({ length: 1001 }, (_, i) => ({ key: `${i}`, labels: {} })) }) },
      'open'
    ],
    ['collected', {}, seen({ newest: before(now, day) }), 'open'],
    ['signal', { ...watching('machine.network.total'), ...above(1e9) }, {}, 'alarm'],
    ['signal', {}, withMetric({ samplingMs: duration(300_000) }), 'alarm'],
    ['timing', ofParts, withMetric({ samplingMs: duration(300_000) }), 'alarm'],
    ['peaks', { ...watching('balancer.latency'), ...above(1) }, { rehearsal: null }, 'alarm'],
    ['peaks', { ...watching('machine.processor.use', { step: 'PT15M' }) }, {}, 'alarm'],
    ['unit', { signal: { ...signalOf('machine.processor.use'), unit: 'By' } }, { rehearsal: null }, 'alarm'],
    ['window', { rule: rule(12, 10) }, {}, 'alarm'],
    ['delay', {}, withMetric({ delayMs: duration(900_000) }), 'alarm'],
    ['batches', {}, withMetric({ everyMs: duration(900_000) }), 'open'],
    ['threshold', above(100), {}, 'alarm'],
    ['threshold', { rule: rule(1, 1, { levels: [threshold('below', 150)] }) }, {}, 'alarm'],
    ['calm', {}, { rehearsal: rehearsed(Array.from({ length: 85 }, () => 1)) }, 'none'],
    [
      'calm',
      {},
      {
        rehearsal: rehearsed(
          Array.from({ length: 85 }, () => 1),
          { proposals: [{ what: 'limit', rule: rule(3, 5), count: 3, flapping: 0, missed: 0 }] }
        )
      },
      'alarm'
    ],
    ['calm', {}, { rehearsal: rehearsed([8 * 1440]) }, 'alarm'],
    ['calm', above(1000), { rehearsal: rehearsed([], { unit: 'By' }) }, 'alarm'],
    ['band', { rule: band }, seen({ learned: { days: 1.5, season: 'none' } }), 'alarm'],
    ['missing', {}, seen({ filled: 0.1 }), 'alarm'],
    ['missing', { rule: rule(3, 5, { whenMissing: 'meets' }) }, seen({ filled: 0.1 }), 'alarm'],
    ['duplicate', {}, { alarms: [{ id: 4, definition: { ...alarm, name: 'Other' } }] }, 'open']
  ];
  for (const [id, changed, more, fix] of cases)
    it(`finds “${failing(changed, more)[0]?.says ?? id}”, with what fixes it`, () => {
      const found = failing(changed, more);
      const one = found.find((check) => check.id === id);
      expect(one, found.map((check) => check.id).join()).to.not.equal(undefined);
      expect(one?.fix ? ('alarm' in one.fix ? 'alarm' : 'open') : 'none').to.equal(fix);
      if (!one?.fix || !('alarm' in one.fix)) return;
      // What would be rehearsed then is not known here.
      const after = preflight(one.fix.alarm, { ...facts, ...more, rehearsal: null });
      expect(after.filter((check) => check.id === id && !check.passed)).to.deep.equal([]);
    });

  it('does not mistake what is right', () => {
    expect(failing({}, { alarms: [{ id: 4, definition: alarm }], id: 4 })).to.deep.equal([]);
    const other = { ...alarm, rule: rule(3, 5, { levels: [threshold('below', 5)] }) };
    expect(failing({}, { alarms: [{ id: 4, definition: other }] })).to.deep.equal([]);
    expect(failing({ rule: band }, seen({ learned: { days: 28, season: 'week' } }))).to.deep.equal([]);
    expect(failing({}, { rehearsal: rehearsed([10, 10]) })).to.deep.equal([]);
    const share = { rehearsal: rehearsed([], { unit: '1', seen: { ...rehearsed().seen, smallest: 0, largest: 1 } }) };
    expect(
      failing({ rule: rule(1, 1, { levels: [threshold('above', 1.2)] }) }, share).map(({ id }) => id)
    ).to.deep.equal(['threshold']);
    expect(failing({ rule: rule(1, 1, { levels: [threshold('below', 1)] }) }, share)).to.deep.equal([]);
    const absence = rule(1, 1, { levels: [{ severity: 'major', condition: { kind: 'absence', for: 'PT10M' } }] });
    expect(failing({ rule: absence }, seen({ newest: before(now, day), filled: 0.1 }))).to.deep.equal([]);
  });

  it('finds the circle that a combined alarm would make, and leaves that part out', () => {
    const world = {
      ...facts,
      id: 1,
      alarms: [
        { id: 1, definition: combinedOf(3, 4) },
        { id: 2, definition: combinedOf(1, 3) },
        { id: 3, definition: alarm },
        { id: 4, definition: { ...alarm, name: 'Four' } }
      ]
    };
    const [check] = preflight(combinedOf(2, 3, 4), world);
    expect(check).to.deep.include({
      id: 'circle',
      passed: false,
      says: 'It combines itself: “of 2,3,4” combines “of 1,3” combines “of 2,3,4”.'
    });
    expect(check?.fix && 'alarm' in check.fix && check.fix.alarm.combines?.parts).to.deep.equal([
      { alarm: 3 },
      { alarm: 4 }
    ]);
    expect(preflight(combinedOf(3, 4), world).filter(({ passed }) => !passed)).to.deep.equal([]);
  });
});
