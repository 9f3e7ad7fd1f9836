import { Refusal } from '../problem/problem';
import { expect } from 'chai';
import { readJsonLines, readOpenMetrics, readRecords, type Received } from './index';

const now = 1_777_881_700_000;
const rejectedOf = ({ refused }: Received): number => refused.reduce((sum, { count }) => sum + count, 0);

describe('reading lines', () => {
  it('JSON lines: a line at fault is named and costs itself', () => {
    const read = readJsonLines(
      [
        '{"metric":"depth","at":"2026-05-04T08:00:00Z","value":3,"resource":"q","unit":"{message}","kind":"gauge","labels":{"lane":"1"}}',
        '{"metric":"depth","at":1777881660000,"value":4,"resource":"q","unit":"{message}","kind":"gauge","labels":{"lane":"1"}}',
        'x',
        '',
        '{"metric":"depth","at":"noon","value":4}',
        '{"metric":"depth","at":1777881660000,"value":"4"}',
        '{"metric":"depth","at":1777881660000,"value":4,"valeu":5}'
      ].join('\n'),
      now
    );
    const { series, faults } = read;
    expect(series).to.have.length(1);
    expect(series[0]!.points.map(([moment, value]) => [moment, value])).to.deep.equal([
      [1777881600000, 3],
      [1777881660000, 4]
    ]);
    expect(rejectedOf(read)).to.equal(4);
    expect(faults[0]).to.equal('Line 3: it is no JSON.');
    expect(faults[1]).to.match(/^Line 5, at: give a date and time with a zone/);
    expect(faults[2]).to.equal('Line 6, value: give a finite number.');
    expect(faults[3]).to.match(/^Line 7, the sample: .*valeu/);
  });

  it('a table: columns by their header, labels by their prefix', () => {
    const record = (line: number, ...cells: string[]) => ({ line, cells });
    const read = readRecords(
      [
        record(1, 'metric', 'at', 'value', 'resource', 'label.lane'),
        record(2, 'depth', '2026-05-04T08:00:00Z', '3', 'q', '1'),
        record(3, 'depth', '2026-05-04T08:00:00Z', '', 'q', '1'),
        record(5, 'depth', '2026-05-04T08:01:00Z', '1e3', '', '')
      ],
      now
    );
    const { series, faults } = read;
    expect(series.map(({ resource, labels, points }) => [resource.id, labels, points[0]![1]])).to.deep.equal([
      ['q', { lane: '1' }, 3],
      ['unnamed', {}, 1000]
    ]);
    expect([rejectedOf(read), faults[0]]).to.deep.equal([1, 'Line 3, value: give a finite number.']);
    expect(readRecords([], now).series).to.deep.equal([]);
  });

  it('a table whose header cannot be used is refused whole', () => {
    const record = (line: number, ...cells: string[]) => ({ line, cells });
    for (const [header, why] of [
      [['metric', 'when'], 'the columns at, value are missing'],
      [['metric', 'at', 'value', 'unit', 'unit'], 'the column unit is there twice'],
      [['metric', 'at', 'value', 'label.a', 'label.a'], 'the column label.a is there twice'],
      [['metric', 'at', 'value', ...Array.from({ length: 300 }, (_, i) => `label.${i}`)], '303 columns']
    ] as const)
      expect(() => readRecords([record(1, ...header), record(2, 'a', 'b')], now), why).to.throw(Refusal, why);
  });

  it('OpenMetrics: kinds and units from its words, the resource from its labels', () => {
    const read = readOpenMetrics(
      '# TYPE sent counter\n# UNIT sent bytes\nsent_total{job="gate",lane="1"} 7\nup NaN\nbad x\n',
      5_000
    );
    const { series, faults } = read;
    expect(
      series.map(({ resource, metric: { name, kind, unit }, labels, points }) => [
        resource.id,
        name,
        kind,
        unit,
        labels,
        points[0]
      ])
    ).to.deep.equal([['gate', 'sent', 'cumulative', 'By', { lane: '1' }, [5000, 7, 1, 7, 7]]]);
    expect(rejectedOf(read)).to.equal(2);
    expect(faults).to.deep.equal([
      'Line 5 "x" is no number: bad x',
      'The end (# EOF) is missing, so a part may be, too. What was read was stored.',
      'Line 4: NaN is no finite number.'
    ]);
  });
});
