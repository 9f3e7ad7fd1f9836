import { expect } from 'chai';
import { machinesStarter, meets, narrowed, signalSchema, signalSentence, stepOf, type Signal } from './index';

const signal: Signal = { version: 1, metric: 'machine.processor.use', where: [], step: 'PT1M', statistic: 'avg' };
const words = { title: 'Processor use', unit: '%', resourceType: 'machine' };

describe('a signal', () => {
  it('is read strictly: unknown keys, labels, statistics and steps are refused with their path', () => {
    const problems = (value: unknown) =>
      signalSchema.safeParse(value).error?.issues.map(({ path }) => path.join('.')) ?? [];
    expect(problems(signal)).to.deep.equal([]);
    expect(problems({ ...signal, statistic: 'mode' })).to.deep.equal(['statistic']);
    expect(problems({ ...signal, where: [{ label: 'colour', is: ['red'] }] })).to.deep.equal(['where.0.label']);
    expect(problems({ ...signal, where: [{ label: 'account', is: [] }] })).to.deep.equal(['where.0.is']);
    for (const step of ['PT30S', 'P1D', 'PT1.5M', '1m', ''])
      expect(problems({ ...signal, step }), step).to.deep.equal(['step']);
    expect(problems({ ...signal, query: 'x' })).to.deep.equal(['']);
  });

  it('picks series that meet every condition', () => {
    const labels = { account: 'corallo-prod', region: 'sella-1', resource: 'gate-api-2', service: 'machines' };
    expect(meets([], labels)).to.equal(true);
    expect(meets([{ label: 'region', is: ['perla-1', 'sella-1'] }], labels)).to.equal(true);
    expect(
      meets(
        [
          { label: 'region', is: ['sella-1'] },
          { label: 'account', is: ['corallo-staging'] }
        ],
        labels
      )
    ).to.equal(false);
  });

  it('is said in one sentence', () => {
    expect(signalSentence(signal, words)).to.equal('Average processor use of each machine, every 1 minute, in %');
    expect(signalSentence({ ...narrowed(signal, 'corallo-prod'), statistic: 'max', step: 'PT5M' }, words)).to.equal(
      'Maximum processor use of each machine in corallo-prod, every 5 minutes, in %'
    );
  });

  it('narrowed twice has one account', () => {
    expect(narrowed(narrowed(signal, 'a'), 'b').where).to.deep.equal([{ label: 'account', is: ['b'] }]);
    expect(narrowed(signal, null)).to.equal(signal);
    expect(stepOf(signal)).to.equal(60_000);
  });

  it('of every panel of the ready board is valid', () => {
    for (const { signal: held } of machinesStarter) expect(signalSchema.parse(held)).to.deep.equal(held);
  });
});
