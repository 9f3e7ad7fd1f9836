import { expect } from 'chai';
import type { Picker } from '$lib/core/board';
import { chosenBefore, labelsAmong, valuesAmong, type Answer, type Matched } from './picker-values';

const told = (labels: Record<string, Record<string, number>>, distinct?: number): Matched => ({
  labels: Object.entries(labels).map(([name, counts]) => ({
    name,
    values: Object.entries(counts).map(([value, count]) => ({ value, count })),
    distinct: distinct ?? Object.keys(counts).length
  }))
});
const answer = (metric: string, ...of: Parameters<typeof told>): Answer => ({ metric, told: told(...of) });
const picker = (name: string, label = name): Picker => ({ name, title: name, label, several: true, usual: [] });

describe('what a picker offers', () => {
  it('counts a value over all metrics, in the order people count in', () => {
    const answers = [
      answer('machine.processor.use', { resource: { 'web-10': 1, 'web-2': 1 } }),
      answer('machine.memory.use', { resource: { 'web-2': 2 }, region: { 'perla-north': 2 } })
    ];
    expect(valuesAmong(answers, 'resource')).to.deep.equal({
      values: [
        { value: 'web-2', count: 3 },
        { value: 'web-10', count: 1 }
      ],
      distinct: 2
    });
  });

  it('says that there are more values than were told', () => {
    expect(valuesAmong([answer('queue.depth', { resource: { a: 1 } }, 900)], 'resource')?.distinct).to.equal(900);
  });

  it('offers nothing of a label that no metric has, and says it does not know when no answer came', () => {
    expect(valuesAmong([answer('queue.depth', {})], 'zone')).to.deep.equal({ values: [], distinct: 0 });
    expect(valuesAmong([{ metric: 'queue.depth', told: null }], 'zone')).to.equal(null);
    const one = valuesAmong([{ metric: 'lost', told: null }, answer('queue.depth', { zone: { a: 1 } })], 'zone');
    expect(one?.values).to.deep.equal([{ value: 'a', count: 1 }]);
  });

  it('depends on what the pickers before it choose, not on itself or those after it', () => {
    const all = [picker('account'), picker('where', 'region'), picker('resource'), picker('group')];
    const choices = { account: ['levante'], where: [], resource: ['web-1'], group: ['shop'] };
    expect(chosenBefore(all[2]!, all, choices)).to.deep.equal([{ label: 'account', is: ['levante'] }]);
    expect(chosenBefore(all[0]!, all, choices)).to.deep.equal([]);
  });
});

describe('labels that a new picker can choose by', () => {
  it('name a metric that has them, unless every series has them', () => {
    const answers = [
      answer('machine.processor.use', { region: { 'perla-north': 1 } }),
      answer('disk.use', { region: { 'perla-south': 2 }, mount: { '/': 1 } })
    ];
    expect(labelsAmong(answers)).to.deep.equal([
      { label: 'region', metric: undefined, values: '2 values' },
      { label: 'mount', metric: 'disk.use', values: '/' }
    ]);
  });

  it('are none on a board without metrics, and not known when no answer came', () => {
    expect(labelsAmong([])).to.deep.equal([]);
    expect(labelsAmong([{ metric: 'disk.use', told: null }])).to.equal(null);
  });
});
