import { Refusal } from '../problem/problem';
import { expect } from 'chai';
import { readJsonLines, readOpenMetrics, readOtlp, readRecords, type Received } from './index';

const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
const now = 1_777_881_700_000;
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

describe('what is refused is counted by its reason', () => {
  const line = (changed: object) =>
    JSON.stringify({ metric: 'depth', at: '2026-05-04T08:00:00Z', value: 1, ...changed });
  const reasonsOf = ({ refused }: Received) => Object.fromEntries(refused.map(({ reason, count }) => [reason, count]));

  it('points ahead of now, before 1970, at impossible times and sent twice', () => {
    const read = readJsonLines(
      [
        line({}),
        line({ value: 2 }),
        line({ at: now + 600_001 }),
        line({ at: now + 600_000 }),
        line({ at: '1969-12-31T23:59:59Z' }),
        line({ at: -5 })
      ].join('\n'),
      now
    );
    expect(reasonsOf(read)).to.deep.equal({
      'sent twice': 1,
      'more than ten minutes ahead': 1,
      'cannot be read': 2
    });
    expect(read.series[0]!.points.map(([at, sum]) => [at, sum])).to.deep.equal([
      [1777881600000, 2],
      [now + 600_000, 1]
    ]);
    const largest = otlp({ name: 'a', gauge: { dataPoints: [{ timeUnixNano: '18446744073709551615', asInt: 1 }] } });
    expect(reasonsOf(largest)).to.deep.equal({ 'more than ten minutes ahead': 1 });
    expect(reasonsOf(otlp({ name: 'a', gauge: { dataPoints: [{ asInt: 1 }] } }))).to.deep.equal({
      'no possible time': 1
    });
  });

  it('text that cannot be stored costs its points, wherever it stands', () => {
    const surrogate = '\\ud800';
    const read = readJsonLines(
      [
        line({ metric: 'a\0b' }),
        line({ labels: { lane: 'x\0' } }),
        `{"metric":"depth","at":"2026-05-04T08:00:00Z","value":1,"labels":{"lane":"${surrogate}"}}`,
        line({ labels: Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`label-${i}`, 'x'.repeat(100)])) }),
        line({ resource: 'é'.repeat(200), labels: { __proto__: 'x', valueOf: 'y' } })
      ].join('\n'),
      now
    );
    expect(reasonsOf(read)).to.deep.equal({ 'text that cannot be stored': 4 });
    expect(read.series).to.have.length(1);
    expect(read.faults[0]).to.match(/^Line 1: "a␀b" contains the character of code 0/);
    expect(read.faults[3]).to.match(/^Line 4: metric and labels have \d+ bytes together, more than 2300/);
  });

  it('more than a thousand parts that cannot be read refuse the whole, in a moment', () => {
    expect(() => readJsonLines('{}\n'.repeat(2_000_000), now)).to.throw(Refusal, 'nothing was stored');
    expect(() => readOpenMetrics('bad line\n'.repeat(500_000), now)).to.throw(Refusal, 'More than 1000 lines');
    const metrics = Array.from({ length: 5000 }, () => ({ name: 'x' }));
    expect(() => otlp(...metrics)).to.throw(Refusal);
    expect(readJsonLines('{}\n'.repeat(900) + line({}), now).series).to.have.length(1);
  });

  it('a line that never ends is refused alone', () => {
    const read = readJsonLines(`${line({ resource: 'x'.repeat(10_000_000) })}\n${line({})}`, now);
    expect(reasonsOf(read)).to.deep.equal({ 'cannot be read': 1 });
    expect(read.series).to.have.length(1);
    const exposed = readOpenMetrics(`up{a="${'x'.repeat(10_000_000)}"} 1\nup 2\n# EOF\n`, now);
    expect(reasonsOf(exposed)).to.deep.equal({ 'cannot be read': 1 });
  });

  it('seconds since the epoch, days that are not there and hexadecimal numbers are named', () => {
    const { faults } = readJsonLines(
      [line({ at: 1777881600 }), line({ at: '1777881600' }), line({ at: '2026-02-30T08:00:00Z' })].join('\n'),
      now
    );
    expect(faults[0]).to.contain('looks like seconds since the epoch; give milliseconds: 1777881600000');
    expect(faults[1]).to.contain('looks like seconds');
    expect(faults[2]).to.match(/^Line 3, at: give a date and time/);
    const table = readRecords(
      [
        { line: 1, cells: ['metric', 'at', 'value'] },
        { line: 2, cells: ['a', '1777881600000', '0x10'] },
        { line: 3, cells: ['a', '1777881600000', ' 1.5e1 '] }
      ],
      now
    );
    expect(table.faults).to.deep.equal(['Line 2, value: give a finite number.']);
    expect(table.series[0]!.points[0]![1]).to.equal(15);
  });
});
