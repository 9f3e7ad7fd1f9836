import { Refusal } from '../problem/problem';
import { expect } from 'chai';
import { readOpenMetrics, readOtlp, type Received } from './index';

const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
const at = '1777881600000000000';
const now = 1_777_881_700_000;
const rejectedOf = ({ refused }: Received): number => refused.reduce((sum, { count }) => sum + count, 0);
const otlp = (...metrics: unknown[]) =>
  readOtlp(
    {
      resourceMetrics: [
        {
          resource: { attributes: [attribute('service.name', 'gate'), attribute('service.instance.id', '7')] },
          scopeMetrics: [{ scope: {}, metrics }]
        }
      ]
    },
    now
  );

describe('reading OTLP metrics', () => {
  it('takes kinds, units and labels from the data', () => {
    const { series, refused } = otlp(
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
    expect(refused).to.deep.equal([]);
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
    const read = otlp(
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
    const { series, faults } = read;
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
    expect(rejectedOf(read)).to.equal(4);
    expect(faults).to.deep.equal([
      'exp: exponential histograms are not stored; send explicit buckets.',
      'broken, point 1: NaN is no finite number.',
      'broken, point 2: its time is not between 1970 and 9999.'
    ]);
  });
});

describe('OTLP, to the letter', () => {
  const gauge = (...dataPoints: unknown[]) => otlp({ name: 'a', gauge: { dataPoints } });
  const at1 = (more: object) => ({ timeUnixNano: at, asInt: 1, ...more });

  it('nanoseconds are whole milliseconds, rounded down: none is lost, none is early', () => {
    const start = 1777881600000000000n;
    const points = Array.from({ length: 999 }, (_, i) => at1({ timeUnixNano: String(start + BigInt(i) * 1_000_000n) }));
    expect(gauge(...points).series[0]!.points).to.have.length(999);
    const before = gauge(at1({ timeUnixNano: String(start - 1n) }));
    expect(before.series[0]!.points[0]![0]).to.equal(1777881599999);
    const exposed = readOpenMetrics('up 1 1777881599.9999999\n# EOF\n', now);
    expect(exposed.series[0]!.points[0]![0]).to.equal(1777881599999);
  });

  it('points that differ in anything are series of their own', () => {
    const of = (value: object) => at1({ attributes: [{ key: 'k', value }] });
    const list = (...texts: string[]) => ({ arrayValue: { values: texts.map((stringValue) => ({ stringValue })) } });
    const { series, refused } = gauge(
      of(list('a', 'b')),
      of(list('a', 'c')),
      of({ intValue: '9007199254740993' }),
      of({ intValue: '9007199254740992' }),
      of({ kvlistValue: { values: [{ key: 'x', value: { boolValue: true } }] } }),
      of({ bytesValue: 'AAE=' })
    );
    expect(series.map(({ labels }) => labels['k'])).to.deep.equal([
      '["a","b"]',
      '["a","c"]',
      '9007199254740993',
      '9007199254740992',
      '{"x":"true"}',
      'AAE='
    ]);
    expect(refused).to.deep.equal([]);
    const part = (namespace: string, scope: object) => ({
      resource: { attributes: [attribute('service.name', 'gate'), attribute('service.namespace', namespace)] },
      scopeMetrics: [{ scope, metrics: [{ name: 'a', gauge: { dataPoints: [at1({})] } }] }]
    });
    const apart = readOtlp(
      {
        resourceMetrics: [
          part('one', { name: 's' }),
          part('two', { name: 's' }),
          part('one', { name: 't' }),
          part('one', { name: 's', version: '2' })
        ]
      },
      now
    );
    expect(apart.series.map(({ resource, labels }) => [resource.id, labels])).to.deep.equal([
      ['one/gate', { scope: 's' }],
      ['two/gate', { scope: 's' }],
      ['one/gate', { scope: 't' }],
      ['one/gate', { scope: 's', 'scope.version': '2' }]
    ]);
  });

  it('takes what proto3 JSON allows, and refuses only the point at fault', () => {
    const read = otlp(
      { name: '', gauge: { dataPoints: [at1({})] } },
      { name: 'long', description: 'x'.repeat(5000), gauge: { dataPoints: [at1({ attributes: null })] } },
      {
        name: 'forms',
        sum: {
          aggregationTemporality: 'AGGREGATION_TEMPORALITY_DELTA',
          isMonotonic: true,
          dataPoints: [
            { timeUnixNano: 1777881600000000000, asDouble: '1.5' },
            at1({ attributes: Array.from({ length: 201 }, (_, i) => attribute(`k${i}`, 'v')) }),
            { timeUnixNano: 'noon', asInt: 1 },
            7,
            { timeUnixNano: at }
          ]
        }
      }
    );
    expect(read.series.map(({ metric: { name, kind }, points }) => [name, kind, points[0]![1]])).to.deep.equal([
      ['long', 'gauge', 1],
      ['forms', 'delta', 1.5]
    ]);
    expect(Object.fromEntries(read.refused.map(({ reason, count }) => [reason, count]))).to.deep.equal({
      'text that cannot be stored': 1,
      'cannot be read': 4
    });
  });

  it('a histogram is one point, whatever it comes apart into', () => {
    const read = otlp({
      name: 'wait',
      histogram: {
        aggregationTemporality: 2,
        dataPoints: [
          { timeUnixNano: at, count: 3, sum: 'NaN', bucketCounts: [1, 2], explicitBounds: [5] },
          { timeUnixNano: at, count: 3, sum: 1, bucketCounts: [1, 2], explicitBounds: [5, 9] },
          { timeUnixNano: at, count: 3, sum: 1, bucketCounts: [1, 1, 1], explicitBounds: [9, 5] }
        ]
      }
    });
    expect(read.series).to.deep.equal([]);
    expect(rejectedOf(read)).to.equal(3);
  });

  it('what is no request at all is refused whole', () => {
    for (const body of [7, null, [], 'x', { resourceMetrics: 7 }])
      expect(() => readOtlp(body, now), JSON.stringify(body)).to.throw(Refusal);
    expect(readOtlp({}, now).series).to.deep.equal([]);
    const odd = { resourceMetrics: [7, { scopeMetrics: 'x' }, { scopeMetrics: [7, { metrics: [7, { name: 'x' }] }] }] };
    expect(rejectedOf(readOtlp(odd, now))).to.be.greaterThan(3);
  });
});
