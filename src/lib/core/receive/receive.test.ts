import { expect } from 'chai';
import { otlpSchema, readJsonLines, readOpenMetrics, readOtlp, readRecords } from './index';

const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
const at = '1777881600000000000';
const otlp = (...metrics: unknown[]) =>
  readOtlp(
    otlpSchema.parse({
      resourceMetrics: [
        {
          resource: { attributes: [attribute('service.name', 'gate'), attribute('service.instance.id', '7')] },
          scopeMetrics: [{ scope: {}, metrics }]
        }
      ]
    })
  );

describe('reading OTLP metrics', () => {
  it('takes kinds, units and labels from the data', () => {
    const { series, rejected } = otlp(
      {
        name: 'temp',
        unit: 'Cel',
        gauge: { dataPoints: [{ timeUnixNano: at, asDouble: -3.5, attributes: [attribute('room', 'a')] }] }
      },
      {
        name: 'calls',
        sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: [{ timeUnixNano: at, asInt: '12' }] }
      },
      { name: 'queue', sum: { aggregationTemporality: 2, dataPoints: [{ timeUnixNano: at, asInt: '0' }] } },
      {
        name: 'new',
        sum: { aggregationTemporality: 1, isMonotonic: true, dataPoints: [{ timeUnixNano: at, asInt: 3 }] }
      }
    );
    expect(rejected).to.equal(0);
    expect(
      series.map(({ metric: { name, kind, unit }, labels, points }) => [name, kind, unit, labels, points[0]])
    ).to.deep.equal([
      ['temp', 'gauge', 'Cel', { room: 'a' }, [1777881600000, -3.5, 1, -3.5, -3.5]],
      ['calls', 'cumulative', '1', {}, [1777881600000, 12, 1, 12, 12]],
      ['queue', 'gauge', '1', {}, [1777881600000, 0, 1, 0, 0]],
      ['new', 'delta', '1', {}, [1777881600000, 3, 1, 3, 3]]
    ]);
    expect(series[0]!.resource.id).to.equal('gate/7');
  });

  it('takes histograms and summaries apart, and rejects what it does not keep, with the word why', () => {
    const { series, rejected, faults } = otlp(
      {
        name: 'wait',
        unit: 'ms',
        histogram: {
          aggregationTemporality: 1,
          dataPoints: [
            {
              timeUnixNano: at,
              count: '3',
              sum: 30,
              min: 1,
              max: 20,
              bucketCounts: ['1', '2', '0'],
              explicitBounds: [5, 50]
            }
          ]
        }
      },
      {
        name: 'age',
        summary: {
          dataPoints: [{ timeUnixNano: at, count: '2', sum: 5, quantileValues: [{ quantile: 0.5, value: 2 }] }]
        }
      },
      { name: 'exp', exponentialHistogram: { dataPoints: [{}, {}] } },
      {
        name: 'broken',
        gauge: {
          dataPoints: [
            { timeUnixNano: at, asDouble: 'NaN' },
            { timeUnixNano: '0', asDouble: 1 },
            { timeUnixNano: at, flags: 1 }
          ]
        }
      }
    );
    expect(
      series.map(({ metric: { name, kind }, labels, points }) => [name, kind, Object.values(labels)[0], points[0]![1]])
    ).to.deep.equal([
      ['wait.count', 'delta', undefined, 3],
      ['wait.sum', 'delta', undefined, 30],
      ['wait.min', 'gauge', undefined, 1],
      ['wait.max', 'gauge', undefined, 20],
      ['wait.bucket', 'delta', '5', 1],
      ['wait.bucket', 'delta', '50', 3],
      ['wait.bucket', 'delta', '+Inf', 3],
      ['age.count', 'cumulative', undefined, 2],
      ['age.sum', 'cumulative', undefined, 5],
      ['age', 'gauge', '0.5', 2]
    ]);
    expect(rejected).to.equal(4);
    expect(faults).to.deep.equal([
      'exp: exponential histograms are not kept; send explicit buckets.',
      'broken: NaN is no finite number.',
      'broken: 0 ns is no time that can be kept.'
    ]);
  });
});

describe('reading lines', () => {
  it('JSON lines: a line at fault is named and costs itself', () => {
    const { series, rejected, faults } = readJsonLines(
      [
        '{"metric":"depth","at":"2026-05-04T08:00:00Z","value":3,"resource":"q","unit":"{message}","kind":"gauge","labels":{"lane":"1"}}',
        '{"metric":"depth","at":1777881660000,"value":4,"resource":"q","unit":"{message}","kind":"gauge","labels":{"lane":"1"}}',
        'x',
        '',
        '{"metric":"depth","at":"noon","value":4}',
        '{"metric":"depth","at":1777881660000,"value":"4"}',
        '{"metric":"depth","at":1777881660000,"value":4,"valeu":5}'
      ].join('\n')
    );
    expect(series).to.have.length(1);
    expect(series[0]!.points.map(([moment, value]) => [moment, value])).to.deep.equal([
      [1777881600000, 3],
      [1777881660000, 4]
    ]);
    expect(rejected).to.equal(4);
    expect(faults[0]).to.equal('Line 3: it is no JSON.');
    expect(faults[1]).to.match(/^Line 5, at: give a date and time with a zone/);
    expect(faults[2]).to.equal('Line 6, value: give a finite number.');
    expect(faults[3]).to.match(/^Line 7, the sample: .*valeu/);
  });

  it('a table: columns by their header, labels by their prefix', () => {
    const record = (line: number, ...cells: string[]) => ({ line, cells });
    const { series, faults, rejected } = readRecords([
      record(1, 'metric', 'at', 'value', 'resource', 'label.lane'),
      record(2, 'depth', '2026-05-04T08:00:00Z', '3', 'q', '1'),
      record(3, 'depth', '2026-05-04T08:00:00Z', '', 'q', '1'),
      record(5, 'depth', '2026-05-04T08:01:00Z', '1e3', '', '')
    ]);
    expect(series.map(({ resource, labels, points }) => [resource.id, labels, points[0]![1]])).to.deep.equal([
      ['q', { lane: '1' }, 3],
      ['unnamed', {}, 1000]
    ]);
    expect([rejected, faults[0]]).to.deep.equal([1, 'Line 3, value: give a finite number.']);
    expect(readRecords([record(1, 'metric', 'when'), record(2, 'a', 'b')]).faults).to.deep.equal([
      'Line 1: the column at, value is missing.'
    ]);
    expect(readRecords([]).series).to.deep.equal([]);
  });

  it('OpenMetrics: kinds and units from its words, the resource from its labels', () => {
    const { series, rejected, faults } = readOpenMetrics(
      '# TYPE sent counter\n# UNIT sent bytes\nsent_total{job="gate",lane="1"} 7\nup NaN\nbad x\n',
      5_000
    );
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
    expect(rejected).to.equal(2);
    expect(faults).to.deep.equal([
      'Line 5 "x" is no number: bad x',
      'The end (# EOF) is missing: a part may be, too. What was read was kept.',
      'Line 4: NaN is no finite number.'
    ]);
  });
});
