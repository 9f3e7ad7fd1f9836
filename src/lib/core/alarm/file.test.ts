import { expect } from 'chai';
import fc from 'fast-check';
import { alarm, plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import { plainSignal } from '../signal';
import { alarmDifferences, changedAlarm, type AlarmDefinition, type Level } from './index';
import { alarmsFile, readAlarmFile } from './file';

const names = {
  routeOf: (id: number) => `route ${id}`,
  alarmOf: (id: number) => (id === 7 ? alarm.name : `alarm ${id}`)
};
const combined: AlarmDefinition = {
  name: 'Both at once',
  combines: { parts: [{ alarm: 7 }, { alarm: 8 }], by: ['resource'], step: 'PT1M' },
  rule: rule(1, 1, { levels: [{ severity: 'critical', condition: { kind: 'combined', needs: 'all' } }] }),
  ...plainDetails,
  route: null
};

describe('alarms as a file', () => {
  it('come back as they were, with names in place of ids, and give the same text again', () => {
    const all = [
      { ...alarm, route: 4 },
      combined,
      { ...alarm, name: 'Off: #1', enabled: false, labels: { team: 'gates' }, about: 'a\nb' }
    ];
    for (const format of ['yaml', 'json'] as const) {
      const text = alarmsFile(all, names, format);
      const read = readAlarmFile(text);
      if (read.kind !== 'read') throw new Error(JSON.stringify(read.problems));
      expect(read.alarms.map(({ name }) => name)).to.deep.equal(all.map(({ name }) => name));
      expect(read.alarms[0]).to.deep.equal({ ...alarm, route: 'route 4' });
      expect(read.alarms[1]?.combines?.parts).to.deep.equal([{ alarm: alarm.name }, { alarm: 'alarm 8' }]);
      const again = read.alarms.map((one) => ({ ...one, route: null, combines: undefined }));
      expect(alarmsFile(again, names, format)).to.equal(
        alarmsFile(
          all.map((one) => ({ ...one, route: null, combines: undefined })),
          names,
          format
        )
      );
    }
  });

  it('hold any text that people write', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (about) => {
        const read = readAlarmFile(alarmsFile([{ ...alarm, about }], names, 'yaml'));
        expect(read.kind === 'read' && read.alarms[0]?.about).to.equal(about);
      })
    );
  });

  it('that are wrong are refused with the lines, all at once', () => {
    const text = alarmsFile([alarm, alarm], names, 'yaml')
      .replace('needs: 3', 'needs: 9')
      .replace('limit: 80', 'limt: 80');
    const read = readAlarmFile(text);
    const told = read.kind === 'unreadable' ? read.problems.map(({ path, message }) => `${path}: ${message}`) : [];
    expect(told.join('\n')).to.contain('The window cannot need more cells than it has.');
    expect(told.length).to.be.above(1);
    expect(read.kind === 'unreadable' && read.problems.every(({ line }) => line !== null)).to.equal(true);
    const twice = readAlarmFile(alarmsFile([alarm, alarm], names, 'yaml'));
    expect(twice.kind === 'unreadable' && twice.problems[0]?.message).to.match(/^Two alarms are called/);
    expect(readAlarmFile('kind: board\n').kind).to.equal('unreadable');
  });
});

describe('differences of alarms', () => {
  const words = {
    wordsOf: () => ({ title: 'Processor use', unit: '%', resourceType: 'machine' }) as never,
    ...names
  };
  const told = (change: Partial<AlarmDefinition>) => alarmDifferences(alarm, { ...alarm, ...change }, words);
  it('are told in sentences, and there is none without a difference', () => {
    expect(told({})).to.deep.equal([]);
    expect(told({ name: 'B', owner: 'Data', route: 2, enabled: false, labels: { team: 'x' } })).to.deep.equal([
      'The name was “Processor nearly exhausted”, is “B”.',
      'It was switched off.',
      'The owner was nobody, is “Data”.',
      'The label team was nothing, is “x”.',
      'Who is notified is up to the route “route 2”.'
    ]);
    expect(
      told({
        rule: rule(2, 5, { levels: [threshold('above', 70, 'minor'), threshold('above', 90)], whenMissing: 'keep' })
      })
    ).to.deep.equal([
      'It is raised as minor when it is above 70 %; it was not before.',
      'It was raised as major when it is above 80 %; it is when it is above 90 %.',
      'It looked at 3 of the last 5 windows of 1 minute; now 2 of the last 5 windows of 1 minute.',
      'For missing data it said indeterminate; now keep the state.'
    ]);
    expect(told({ signal: plainSignal({ metric: 'x', statistic: 'max' }) })[0]).to.match(/^It watched .* watches /);
  });
});

describe('differences of any two alarms', () => {
  const words = { wordsOf: () => undefined, routeOf: (id: number) => `${id}`, alarmOf: (id: number) => `${id}` };
  const levelSets: Level[][] = [
    [threshold('above', 80)],
    [threshold('below', 80)],
    [threshold('above', 70, 'minor'), threshold('above', 80)],
    [
      {
        severity: 'major',
        condition: {
          ...{ kind: 'threshold', is: 'above', limit: 80 },
          exceptions: [{ times: { weekdays: [6] }, off: true }]
        }
      }
    ]
  ];
  const any = fc.record({
    name: fc.constantFrom('A', 'B'),
    signal: fc.record({
      metric: fc.constantFrom('x', 'y'),
      statistic: fc.constantFrom('avg' as const, 'max' as const),
      step: fc.constantFrom('PT1M', 'PT5M')
    }),
    unit: fc.constantFrom(undefined, '%', 'By'),
    digits: fc.constantFrom(undefined, 1),
    levels: fc.constantFrom(...levelSets),
    needs: fc.integer({ min: 1, max: 3 }),
    clearing: fc.constantFrom(undefined, { needs: 1, of: 1 }, { needs: 3, of: 3 }, { needs: 2, of: 3 }),
    whenMissing: fc.constantFrom('keep' as const, 'meets' as const),
    zone: fc.constantFrom('UTC', 'Europe/Rome'),
    enabled: fc.boolean(),
    labels: fc.constantFrom<Record<string, string>>({}, { a: '1' }, { a: '' }),
    route: fc.constantFrom(null, 1, 2),
    about: fc.constantFrom('', 'x'),
    runbook: fc.constantFrom('', 'https://example.test'),
    owner: fc.constantFrom('', 'x')
  });
  type Made = typeof any extends fc.Arbitrary<infer One> ? One : never;
  const made = ({
    signal,
    unit,
    digits,
    levels,
    needs,
    clearing,
    whenMissing,
    zone,
    ...rest
  }: Made): AlarmDefinition => ({
    ...rest,
    signal: { ...plainSignal(signal), ...(unit && { unit }), ...(digits && { digits }) },
    rule: { levels, window: { needs, of: 3 }, ...(clearing && { clearing }), whenMissing, zone }
  });

  it('are none exactly when they are the same, so that no change of a file is passed over', () => {
    fc.assert(
      fc.property(any, any, fc.boolean(), (one, other, isSame) => {
        const [before, after] = [made(one), made(isSame ? one : other)];
        const isEqual = JSON.stringify(before) === JSON.stringify(after);
        expect(alarmDifferences(before, after, words).length === 0).to.equal(isEqual);
      }),
      { numRuns: 2000 }
    );
    fc.assert(
      fc.property(any, fc.constantFrom(...Object.keys(plainDetails), 'name', 'route'), any, (one, key, other) => {
        const before = made(one);
        const after = { ...before, [key]: made(other)[key as 'name'] };
        expect(alarmDifferences(before, after, words).length === 0, key).to.equal(
          JSON.stringify(before) === JSON.stringify(after)
        );
      }),
      { numRuns: 1000 }
    );
  });
});

describe('a change of several alarms', () => {
  it('changes what it names, and says why where it cannot', () => {
    expect(changedAlarm(alarm, { owner: 'Data', enabled: false })).to.deep.equal({
      ...alarm,
      owner: 'Data',
      enabled: false
    });
    const both = { ...alarm, route: 2, labels: { a: '1', b: '2' } };
    expect(changedAlarm(both, { route: null, labels: { a: '', c: '3' } })).to.deep.include({
      route: null,
      labels: { b: '2', c: '3' }
    });
    expect(changedAlarm(alarm, { severity: 'minor' })).to.have.nested.property('rule.levels[0].severity', 'minor');
    const two = { ...alarm, rule: rule(1, 1, { levels: [threshold('above', 1, 'minor'), threshold('above', 2)] }) };
    expect(changedAlarm(two, { severity: 'minor' })).to.match(/several severities/);
    const many = Object.fromEntries(Array.from({ length: 21 }, (_, i) => [`l${i}`, 'x']));
    expect(changedAlarm(alarm, { labels: many })).to.match(/at most 20 labels/);
  });
});
