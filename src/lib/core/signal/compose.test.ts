import { expect } from 'chai';
import {
  changePick,
  findingsOf,
  freeName,
  plainSignal,
  replaceRow,
  steady,
  shownRows,
  signalSchema,
  toggleShown,
  withoutRow,
  withRow,
  type CheckedAnswer,
  type CheckedMetric,
  type SignalPick,
  type Signal
} from './index';

const pick = (name: string, more: object = {}): SignalPick => ({
  name,
  metric: 'm',
  where: [],
  statistic: 'avg',
  ...more
});
const signal: Signal = { version: 2, step: 'PT1M', rows: [pick('a'), { name: 'b', formula: 'a * 2' }] };

describe('composing a signal', () => {
  it('adds, replaces, hides and takes away rows; what is left is always a signal', () => {
    expect(freeName(signal.rows)).to.equal('c');
    expect(freeName(Array.from('abcdefghijklmnopqrstuvwxyz', (name) => pick(name)))).to.equal('a1');
    const longer = withRow({ ...signal, show: ['a'] }, pick('c'));
    expect(shownRows(longer)).to.deep.equal(['c']);
    expect(shownRows(toggleShown(longer, 'a'))).to.deep.equal(['a', 'c']);
    expect(toggleShown(longer, 'c')).to.equal(longer);
    expect(shownRows(replaceRow({ ...signal, show: ['b', 'a'] }, 'a', pick('x')))).to.deep.equal(['b', 'x']);
    expect(shownRows(withoutRow({ ...signal, show: ['b'] }, 'b'))).to.deep.equal(['a']);
    expect(withoutRow(plainSignal({ metric: 'm', statistic: 'avg' }), 'a').rows).to.have.length(1);
    expect(changePick(pick('a', { combine: { statistic: 'sum', by: [] } }), { combine: undefined })).to.deep.equal(
      pick('a')
    );
    for (const one of [longer, toggleShown(longer, 'a'), withoutRow(signal, 'b')])
      expect(signalSchema.safeParse(one).success).to.equal(true);
  });
});

describe('what is worth knowing of a signal', () => {
  const metric = (more: Partial<CheckedMetric> = {}): CheckedMetric => ({
    title: 'Bytes',
    kind: 'gauge',
    shape: 'single',
    samplingMs: 60_000,
    ...more
  });
  const answer = (more: Partial<CheckedAnswer> = {}): CheckedAnswer => ({
    rows: [{ name: 'a', unit: 'By' }],
    notes: [],
    withGaps: 0,
    series: 2,
    ...more
  });
  const first = (of: Signal, its: CheckedMetric, told: CheckedAnswer | null = null) =>
    findingsOf(of, () => its, told)[0];
  const plain = plainSignal({ metric: 'm', statistic: 'avg' });

  it('a running total drawn raw is mended to its rate', () => {
    const found = first(plain, metric({ kind: 'cumulative' }));
    expect(found?.text).to.equal('Bytes is a running total: drawn raw it only climbs.');
    expect((found?.mend?.signal.rows[0] as SignalPick).statistic).to.equal('rate');
    const rate = plainSignal({ metric: 'm', statistic: 'rate' });
    expect(findingsOf(rate, () => metric({ kind: 'cumulative' }), null).every(({ passed }) => passed)).to.equal(true);
  });

  it('a step shorter than sampling, a statistic that the shape cannot give', () => {
    const seldom = first(plain, metric({ samplingMs: 300_000 }));
    expect([seldom?.passed, seldom?.mend?.signal.step]).to.deep.equal([false, 'PT5M']);
    const percentile = plainSignal({ metric: 'm', statistic: 'p95' });
    const found = first(percentile, metric({ shape: 'summary' }));
    expect(found?.text).to.include('have no 95th percentile');
    expect((found?.mend?.signal.rows[0] as SignalPick).statistic).to.equal('avg');
  });

  it('mixed units on one axis, gaps of a formula, and what the evaluation noted', () => {
    const two: Signal = { ...signal, show: ['a', 'b'] };
    const rows = [
      { name: 'a', unit: 'By' },
      { name: 'b', unit: '1' }
    ];
    const mixed = first(two, metric(), answer({ rows }));
    expect(mixed?.text).to.equal('One axis would mix B and plain numbers.');
    expect(mixed?.mend?.signal.show).to.deep.equal(['a']);
    const gaps = first(signal, metric(), answer({ withGaps: 1 }));
    expect(gaps?.text).to.equal('1 of 2 shown series have gaps: cells for which nothing arrived.');
    expect(gaps?.mend?.signal.rows[1]).to.deep.equal({ name: 'b', formula: 'fill(a * 2, 0)' });
    const noted = first(signal, metric(), answer({ notes: [{ row: 'b', text: 'Nothing meets.' }] }));
    expect([noted?.passed, noted?.text]).to.deep.equal([false, 'b: Nothing meets.']);
  });

  it('becomes one that an alarm can watch: cells of the length worked out, every series', () => {
    const limited: Signal = {
      ...plain,
      step: 'auto',
      limit: { keep: 3, order: 'highest', by: 'avg', rest: 'leave out' }
    };
    expect(steady(limited, 'PT5M')).to.deep.equal({ ...plain, step: 'PT5M' });
    expect(steady({ ...signal, show: ['a', 'b'] }, 'PT5M')).to.equal(null);
  });

  it('is said once, and says what is in order too', () => {
    const found = findingsOf({ ...signal, rows: [pick('a'), pick('b')] }, () => metric(), answer());
    expect(found.map(({ text }) => text)).to.deep.equal([
      'Cells of 1 minute fit bytes, which comes every 1 minute.',
      'No shown series has a gap.'
    ]);
  });
});
