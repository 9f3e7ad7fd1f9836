import { expect } from 'chai';
import fc from 'fast-check';
import { problemsOf } from '../forms/problems';
import { labelConditionSchema } from './conditions';
import {
  asksFor,
  conditionMatcher,
  namesOfColumns,
  picked,
  plainPick,
  plainSignal,
  steadySignalSchema,
  signalSchema,
  signalSentence,
  type SignalPick,
  type Signal
} from './index';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
const pick = plainPick(signal) as SignalPick;
const words = { title: 'Processor use', unit: '%', resourceType: 'machine' };
const withPick = (more: object): object => ({ ...signal, rows: [{ ...pick, ...more }] });

describe('a signal', () => {
  it('is read strictly: what cannot be understood is refused with its path', () => {
    const problems = (value: unknown) => {
      const { error } = signalSchema.safeParse(value);
      return error ? problemsOf(error).map(({ path }) => path) : [];
    };
    expect(problems(signal)).to.deep.equal([]);
    expect(problems(withPick({ statistic: 'mode' }))).to.deep.equal(['rows.0.statistic']);
    expect(problems(withPick({ where: [{ label: 'region', is: [] }] }))).to.deep.equal(['rows.0.where.0.is']);
    expect(problems(withPick({ where: [{ label: 'region', matches: '(' }] }))).to.deep.equal([
      'rows.0.where.0.matches'
    ]);
    for (const step of ['PT30S', 'P2D', 'PT1.5M', '1m', ''])
      expect(problems({ ...signal, step }), step).to.deep.equal(['step']);
    expect(problems({ ...signal, query: 'x' })).to.deep.equal(['']);
    expect(problems({ ...signal, rows: [pick, pick] })).to.deep.equal(['rows.1.name']);
    expect(problems({ ...signal, show: ['b'] })).to.deep.equal(['show.0']);
    expect(problems({ ...signal, rows: [{ name: '2a', formula: '1' }] })).to.deep.equal(['rows.0.name']);
  });

  it('that alarms watch has cells of a fixed length and shows every series of one row', () => {
    const fits = (value: unknown) => steadySignalSchema.safeParse(value).success;
    expect(fits(signal)).to.equal(true);
    for (const step of ['auto', 'P1D', '1m', 'P1X', '']) expect(fits({ ...signal, step }), step).to.equal(false);
    expect(fits({ ...signal, limit: { keep: 3, order: 'highest', by: 'avg', rest: 'leave out' } })).to.equal(false);
    const two = { ...signal, rows: [pick, { name: 'b', formula: 'a * 2' }] };
    expect(fits(two)).to.equal(true);
    expect(fits({ ...two, show: ['a', 'b'] })).to.equal(false);
  });

  it('is said in one sentence', () => {
    expect(signalSentence(signal, words)).to.equal('Average processor use of each machine, every 1 minute, in %');
    const where = [{ label: 'account', is: ['corallo-prod'] }];
    const narrow = plainSignal({ metric: 'm', statistic: 'max', step: 'PT5M', where });
    expect(signalSentence(narrow, words)).to.equal(
      'Maximum processor use of each machine in corallo-prod, every 5 minutes, in %'
    );
    const highest: Signal = {
      ...signal,
      step: 'auto',
      rows: [{ ...pick, statistic: 'rate', combine: { statistic: 'sum', by: ['region'] } }],
      limit: { keep: 5, order: 'highest', by: 'avg', rest: 'sum' }
    };
    expect(signalSentence(highest, { ...words, title: 'Network out', unit: 'By' })).to.equal(
      'Rate of network out, added up by region of all machines, in cells that follow the range, highest 5, in B/s'
    );
    const share: Signal = { ...signal, rows: [pick, { name: 'share', formula: ' a / 100 ' }] };
    expect(signalSentence(share, words, { unit: '1' })).to.equal('Share, which is a / 100, every 1 minute');
  });
});

describe('conditions on labels', () => {
  const labels = { account: 'corallo-prod', region: 'sella-1', resource: 'gate-api-2', group: ['gates', 'all'] };

  it('hold for equal, not equal, one of, matching and not matching; a missing label is empty', () => {
    const holds = (...where: Parameters<typeof conditionMatcher>[0]) => conditionMatcher(where)(labels);
    expect(holds()).to.equal(true);
    expect(holds({ label: 'region', is: ['perla-1', 'sella-1'] })).to.equal(true);
    expect(holds({ label: 'region', isNot: ['sella-1'] })).to.equal(false);
    expect(holds({ label: 'resource', matches: '^gate-.*-\\d$' })).to.equal(true);
    expect(holds({ label: 'resource', matchesNot: 'gate' })).to.equal(false);
    expect(holds({ label: 'class', is: ['5xx'] })).to.equal(false);
    expect(holds({ label: 'class', isNot: ['5xx'] })).to.equal(true);
    expect(holds({ label: 'group', is: ['gates'] }, { label: 'account', is: ['corallo-prod'] })).to.equal(true);
    expect(holds({ label: 'group', isNot: ['all'] })).to.equal(false);
    expect(conditionMatcher([{ label: 'constructor', is: ['x'] }])(labels)).to.equal(false);
  });

  it('with an expression that cannot be read say what is wrong with it', () => {
    const said = (condition: object) => labelConditionSchema.safeParse(condition).error?.issues[0]?.message;
    for (const way of ['matches', 'matchesNot'])
      expect(said({ label: 'resource', [way]: 'gate-(' }))
        .to.match(/expression/i)
        .and.not.contain('one of is');
    expect(said({ label: 'resource' })).to.contain('one of is, isNot, matches');
    expect(said({ label: 'resource', matches: 'gate-.*' })).to.equal(undefined);
  });

  it('take the values of pickers, and ask for nothing where none is chosen', () => {
    const where = [
      { label: 'account', picker: 'account' },
      { label: 'region', picker: 'region' }
    ];
    expect(picked(where, { account: ['a', 'b'] })).to.deep.equal([{ label: 'account', is: ['a', 'b'] }]);
  });

  it('with a hostile expression are answered in linear time', () => {
    const test = conditionMatcher([{ label: 'resource', matches: '^(a+)+$' }]);
    expect(test({ resource: `${'a'.repeat(50_000)}!` })).to.equal(false);
  });
});

describe('a pattern of metrics', () => {
  it('agrees with a regular expression made of it', () => {
    const piece = fc.stringMatching(/^[ab.*]{0,8}$/);
    fc.assert(
      fc.property(piece, fc.stringMatching(/^[ab.]{0,8}$/), (pattern, metric) => {
        const slow = new RegExp(`^${pattern.replaceAll('.', '\\.').replaceAll('*', '.*')}$`);
        expect(asksFor(pattern, metric)).to.equal(slow.test(metric));
      }),
      { numRuns: 500 }
    );
  });
});

describe('names of series', () => {
  it('are the resource, with what tells two of one resource apart, and the place where names repeat', () => {
    const of = (account: string, own = {}) => ({ account, region: 'r', resource: 'gate', ...own });
    expect(namesOfColumns('a', [of('x', { class: '5xx' }), of('x', { class: '2xx' })])).to.deep.equal([
      'gate 5xx',
      'gate 2xx'
    ]);
    expect(namesOfColumns('a', [of('x'), of('y')])).to.deep.equal(['gate x', 'gate y']);
    expect(namesOfColumns('total', [{}])).to.deep.equal(['total']);
    expect(namesOfColumns('a', [{ region: 'p' }, { region: 'q' }])).to.deep.equal(['p', 'q']);
    expect(namesOfColumns('a', [of('x'), { others: '3 others' }])).to.deep.equal(['gate', '3 others']);
  });
});
