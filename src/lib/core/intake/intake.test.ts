import { expect } from 'chai';
import {
  collectedMetrics,
  collects,
  estimate,
  leavesOut,
  planSchema,
  planBrief,
  planSentence,
  selectsMetric,
  usualPlan,
  type CollectionPlan,
  type PlannedResource
} from './index';
import { matchesAny } from '../pattern';

const resource = (changed: Partial<PlannedResource> = {}): PlannedResource => ({
  name: 'booking-web-1',
  tags: { team: 'booking', namespace: 'harbour' },
  chosen: null,
  guest: 'off',
  ...changed
});
const plan = (changed: Partial<CollectionPlan>): CollectionPlan => planSchema.parse({ ...usualPlan, ...changed });
const metric = (name: string, recommended = true, level: 'host' | 'guest' = 'host') => ({ name, recommended, level });

describe('patterns', () => {
  it('a star is any characters, a question mark is one, and nothing else is special', () => {
    for (const [pattern, text, matches] of [
      ['lab-*', 'lab-3', true],
      ['lab-*', 'slab-3', false],
      ['*web*', 'booking-web-1', true],
      ['gate-?', 'gate-1', true],
      ['gate-?', 'gate-12', false],
      ['a.b', 'axb', false],
      ['[ab]', 'a', false],
      ['[ab]', '[ab]', true],
      ['!x', 'y', false],
      ['*/cpu', 'a/b/cpu', true],
      ['**', '.hidden/x', true]
    ] as const)
      expect(matchesAny([pattern], text), `${pattern} ${text}`).to.equal(matches);
  });
});

describe('a collection plan', () => {
  it('is refused with the place of what is wrong', () => {
    expect(planSchema.safeParse(usualPlan).success).to.equal(true);
    const bad = planSchema.safeParse({ ...usualPlan, every: 'PT7M', keep: { ...usualPlan.keep, sampleDays: 0 } });
    expect(bad.error?.issues.map(({ path }) => path.join('.'))).to.deep.equal(['every', 'keep.sampleDays']);
  });

  it('takes a person’s word for one resource first, then what is left out, then itself', () => {
    const leaving = plan({ leaveOut: { names: ['booking-*'], tags: [], namespaces: [] } });
    expect(collects(usualPlan, resource())).to.equal(true);
    expect(collects(leaving, resource())).to.equal(false);
    expect(collects(leaving, resource({ chosen: true }))).to.equal(true);
    expect(collects(usualPlan, resource({ chosen: false }))).to.equal(false);
    expect(collects(plan({ collect: 'chosen' }), resource())).to.equal(false);
    expect(collects(plan({ collect: 'chosen' }), resource({ chosen: true }))).to.equal(true);
    expect(collects(plan({ collect: 'nothing' }), resource({ chosen: true }))).to.equal(false);
  });

  it('leaves out by name, by tag and by namespace', () => {
    const out = (leaveOut: Partial<CollectionPlan['leaveOut']>) =>
      leavesOut(plan({ leaveOut: { ...usualPlan.leaveOut, ...leaveOut } }), resource());
    expect(out({ names: ['*-web-*'] })).to.equal(true);
    expect(out({ tags: [{ key: 'team', value: 'book*' }] })).to.equal(true);
    expect(out({ tags: [{ key: 'stage', value: '*' }] })).to.equal(false);
    expect(out({ namespaces: ['harbour'] })).to.equal(true);
    expect(out({ namespaces: ['harbour-2'] })).to.equal(false);
  });

  it('selects metrics: all, the recommended, a list, patterns; guest-level ones only where they are on', () => {
    const few = metric('machine.swap.use', false);
    expect(selectsMetric(usualPlan, few)).to.equal(false);
    expect(selectsMetric(plan({ metrics: { kind: 'all' } }), few)).to.equal(true);
    expect(selectsMetric(plan({ metrics: { kind: 'list', names: ['machine.swap.use'] } }), few)).to.equal(true);
    expect(selectsMetric(plan({ metrics: { kind: 'patterns', patterns: ['*.swap.*'] } }), few)).to.equal(true);
    const metrics = [metric('a'), metric('b', true, 'guest')];
    expect(collectedMetrics(usualPlan, resource(), metrics).map(({ name }) => name)).to.deep.equal(['a']);
    expect(collectedMetrics(usualPlan, resource({ guest: 'on' }), metrics).map(({ name }) => name)).to.deep.equal([
      'a',
      'b'
    ]);
    expect(collectedMetrics(usualPlan, resource({ chosen: false, guest: 'on' }), metrics)).to.deep.equal([]);
  });

  it('reads as one sentence', () => {
    expect(planSentence(usualPlan, 'machines')).to.equal(
      'Collects the recommended metrics of all machines and of those that appear later, every 1 minute.'
    );
    expect(
      planSentence(
        plan({
          collect: 'chosen',
          every: 'PT5M',
          metrics: { kind: 'all' },
          leaveOut: { ...usualPlan.leaveOut, names: ['lab-*'] }
        }),
        'queues'
      )
    ).to.equal('Collects every metric of the chosen queues, every 5 minutes, leaving out names like lab-*.');
  });

  it('and in a few words', () => {
    expect(planBrief(usualPlan)).to.equal('recommended, every 1 min, and resources discovered later');
    expect(planBrief(plan({ collect: 'chosen', leaveOut: { ...usualPlan.leaveOut, namespaces: ['lab'] } }))).to.equal(
      'recommended, every 1 min, of the chosen, some left out'
    );
    expect(planBrief(plan({ collect: 'nothing' }))).to.equal('not collected');
  });

  it('says what it takes in a day', () => {
    const day = estimate(
      { every: 'PT5M' },
      [
        { samplingMs: 60_000, series: 3 },
        { samplingMs: 900_000, series: 1 }
      ],
      2,
      0.5,
      2
    );
    expect(day).to.deep.equal({ samples: 3 * 1440 + 96, requests: 576, price: 0.288, bytes: 2 * (3 * 1440 + 96) });
    expect(estimate({ every: 'PT1M' }, [], 2, 0.5, 2)).to.deep.equal({ samples: 0, requests: 0, price: 0, bytes: 0 });
  });
});
