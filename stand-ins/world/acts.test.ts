import { expect } from 'chai';
import { actKinds, isActMode, type ActOrder } from './act-kinds';
import {
  carryOut,
  countMetric,
  countNow,
  foretold,
  isStopped,
  machineSizes,
  progressOf,
  refusalOf,
  sizeNow,
  type Abilities
} from './acts';
import { ProviderState } from './state';

const machine: Abilities = { kinds: ['restart', 'stop', 'start', 'size'], sizes: machineSizes };
const group: Abilities = {
  ...{ kinds: ['restart', 'count'], counted: ['group.running'] },
  count: { usual: 3, least: 1, most: 10 }
};
const begun = 1_777_800_000_000;

describe('what a stand-in does with its resources', () => {
  let state: ProviderState;
  let keys = 0;
  const act = (order: Omit<ActOrder, 'resource'> & { resource?: string }, at = begun, of = machine) =>
    carryOut(state, of, { resource: 'm1', ...order }, `key ${++keys}`, at);
  const refusal = (order: Omit<ActOrder, 'resource'>, of = machine) =>
    refusalOf(state, of, { resource: 'm1', ...order });
  /** What it says of itself at a moment, where it is not silent. */
  const isSilent = (at: number) =>
    state.stresses.some(
      ({ resource, metric, from, until }) => resource === 'm1' && metric === 'all' && from <= at && at < until
    );
  beforeEach(() => (state = new ProviderState(begun)));

  it('a restart is silent for a minute, and ends what troubled it', () => {
    state.stress({ resource: 'm1', metric: 'processor', value: 99, from: begun - 1000, until: begun + 3_600_000 });
    const done = act({ kind: 'restart' });
    expect(done.until - begun).to.equal(60_000);
    expect([isSilent(begun), isSilent(begun + 59_999), isSilent(begun + 60_000)]).to.deep.equal([true, true, false]);
    expect(state.stresses.find(({ metric }) => metric === 'processor')?.until).to.equal(begun);
    expect(progressOf(done, begun + 59_999).state).to.equal('going');
    expect(progressOf(done, begun + 60_000).state).to.equal('done');
  });

  it('what is stopped stays silent until it is started, and does nothing else', () => {
    act({ kind: 'stop' });
    expect([isStopped(state, 'm1'), isSilent(begun + 1e9), isStopped(state, 'm2')]).to.deep.equal([true, true, false]);
    expect(refusal({ kind: 'restart' })).to.equal('It is stopped.');
    expect(refusal({ kind: 'size', size: 'huge' })).to.equal('It is stopped.');
    expect(refusal({ kind: 'start' })).to.equal(null);
    act({ kind: 'start' }, begun + 5000);
    expect([isStopped(state, 'm1'), isSilent(begun + 5000 + 40_000)]).to.deep.equal([false, false]);
    expect(refusal({ kind: 'start' })).to.equal('It is running.');
  });

  it('sizes and counts are what was ordered last, within what there is', () => {
    expect([sizeNow(state, 'm1'), countNow(state, 'm1', group)]).to.deep.equal(['medium', 3]);
    expect(refusal({ kind: 'size', size: 'giant' })).to.equal('There is no size giant.');
    expect(refusal({ kind: 'size' })).to.equal('There is no size .');
    act({ kind: 'size', size: 'large' });
    expect(sizeNow(state, 'm1')).to.equal('large');
    for (const count of [undefined, 0, 11])
      expect(refusal({ kind: 'count', count }, group)).to.equal('The count is from 1 to 10.');
    act({ kind: 'count', count: 7 }, begun, group);
    expect(countNow(state, 'm1', group)).to.equal(7);
    const set = state.stresses.filter(({ resource, value }) => resource === 'm1' && value === 7);
    expect(set.map(({ metric }) => metric)).to.deep.equal([countMetric, 'group.running']);
    act({ kind: 'restart' }, begun + 1000, group);
    expect(countNow(state, 'm1', group), 'a count that was set stays').to.equal(7);
    expect(
      set.every((one) => state.stresses.some(({ metric, until }) => metric === one.metric && until > begun + 1e9))
    ).to.equal(true);
  });

  it('a key is done once, however often it comes', () => {
    const order = { resource: 'm1', kind: 'restart' } as const;
    const first = carryOut(state, machine, order, 'same', begun);
    for (let again = 0; again < 3; again++)
      expect(carryOut(state, machine, order, 'same', begun + 999)).to.equal(first);
    expect([state.acts.length, state.repeatedActs]).to.deep.equal([1, 3]);
  });

  it('what fails changes nothing, and says so at its end; what is slow takes ten minutes', () => {
    state.actMode = 'failing';
    const failed = act({ kind: 'stop' });
    expect([isStopped(state, 'm1'), isSilent(begun)]).to.deep.equal([false, false]);
    expect(progressOf(failed, failed.until)).to.deep.equal({
      ...{ state: 'failed', says: 'The stop failed: nothing was changed.' }
    });
    state.actMode = 'slow';
    expect(act({ kind: 'restart' }).until - begun).to.equal(600_000);
  });

  it('is foretold for each kind, and refused for kinds that a resource has not', () => {
    for (const kind of actKinds) {
      const order = { resource: 'm1', kind, size: 'huge', count: 5 } as const;
      expect(
        foretold(state, group, order).every((says) => says.endsWith('.')),
        kind
      ).to.equal(true);
      if (!machine.kinds.includes(kind))
        expect(refusal({ kind, count: 5 })).to.equal(`It is of a kind that has no ${kind}.`);
    }
    expect(foretold(state, machine, { resource: 'm1', kind: 'size', size: 'huge' })[0]).to.equal(
      'Its size changes from medium to huge.'
    );
    expect(foretold(state, group, { resource: 'm1', kind: 'count', count: 5 })).to.deep.equal([
      'There are 5 instead of 3.'
    ]);
    expect([isActMode('lost'), isActMode('toString'), isActMode(4)]).to.deep.equal([true, false, false]);
  });
});
