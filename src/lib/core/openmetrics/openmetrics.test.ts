import { expect } from 'chai';
import fc from 'fast-check';
import { meaningOf, readExposition, ucumOf } from './index';

const page = `# TYPE requests counter
# UNIT requests requests
# HELP requests Requests answered,\\nall of them.
requests_total{outcome="ok",path="C:\\\\a\\"b"} 17 1777881600.5 # {trace_id="4bf9"} 1 1777881600
requests_created{outcome="ok"} 1777881000
# TYPE memory_bytes gauge
memory_bytes 1.5e+09
# TYPE latency_seconds histogram
latency_seconds_bucket{le="+Inf"} 3
latency_seconds_count 3
latency_seconds_sum 0.75
# TYPE build info
build_info{version="4.18"} 1
plain -Inf
# EOF
`;

describe('reading OpenMetrics text', () => {
  it('gives names, labels, values, times and exemplars', () => {
    const { samples, faults, complete, families } = readExposition(page);
    expect(complete).to.equal(true);
    expect(faults).to.deep.equal([]);
    expect(samples[0]).to.deep.include({
      name: 'requests_total',
      labels: { outcome: 'ok', path: 'C:\\a"b' },
      value: 17,
      at: 1777881600500,
      exemplar: { labels: { trace_id: '4bf9' }, value: 1, at: 1_777_881_600_000 },
      line: 4
    });
    expect(families.get('requests')).to.deep.include({
      type: 'counter',
      unit: 'requests',
      help: 'Requests answered,\nall of them.'
    });
    expect(samples.map(({ value }) => value)).to.deep.equal([17, 1777881000, 1.5e9, 3, 3, 0.75, 1, -Infinity]);
  });

  it('knows what a sample means', () => {
    const { samples } = readExposition(page);
    expect(samples.map(meaningOf)).to.deep.equal([
      { metric: 'requests', kind: 'cumulative', unit: '{requests}' },
      null,
      { metric: 'memory_bytes', kind: 'gauge', unit: 'By' },
      { metric: 'latency_seconds_bucket', kind: 'cumulative', unit: '1' },
      { metric: 'latency_seconds_count', kind: 'cumulative', unit: '1' },
      { metric: 'latency_seconds_sum', kind: 'cumulative', unit: 's' },
      null,
      { metric: 'plain', kind: 'gauge', unit: '1' }
    ]);
    expect(ucumOf({ name: 'x_ratio', unit: '' })).to.equal('{ratio}');
  });

  it('names the line at fault and why, and reads the others', () => {
    const lines: readonly (readonly [string, string])[] = [
      ['{a="b"} 1', 'does not start with the name of a metric'],
      ['up n/a', '"n/a" is no number'],
      ['up', 'has no blank between the name and the value'],
      ['up{a=1} 1', 'has a label a without a value in quotation marks'],
      ['up{a="b} 1', 'has a label a whose value does not end'],
      ['up{a="1",a="2"} 1', 'has the label a twice'],
      ['up{a="1" b="2"} 1', 'has no comma behind the label a'],
      ['up{="1"} 1', 'has a label without a name'],
      ['up 1 noon', '"noon" is no time in seconds'],
      ['up 1 2 3', '"3" stands behind the time'],
      ['up 0x10', '"0x10" is no number'],
      ['up 1 # 3', 'has an exemplar without labels'],
      ['up 1 # {a="b"} 1 soon', 'has an exemplar at "soon", which is no time'],
      ['# TYPE up dial', '"dial" is no type of metric; it is one of gauge']
    ];
    for (const [line, reason] of lines) {
      const { samples, faults } = readExposition(`good 1\n${line}\nlast 2\n# EOF\n`);
      expect(
        samples.map(({ name }) => name),
        line
      ).to.deep.equal(['good', 'last']);
      expect(faults, line).to.have.length(1);
      expect([faults[0]!.line, faults[0]!.reason.startsWith(reason)], `${line}: ${faults[0]!.reason}`).to.deep.equal([
        2,
        true
      ]);
    }
  });

  it('refuses what the specification forbids of lines together, with the line', () => {
    const cases: readonly (readonly [string, number, string])[] = [
      ['up 1\nup 2\n', 2, 'repeats a series of a line before'],
      ['up{a="1",b="2"} 1\nup{b="2",a="1"} 2\n', 2, 'repeats a series of a line before'],
      ['up 1 5\nup 2 4\n', 2, 'goes back in time in its series'],
      ['# TYPE a gauge\na 1\n# TYPE b gauge\nb 1\na{x="y"} 2\n', 5, 'belongs to a, whose lines do not stand together'],
      ['# TYPE a gauge\na 1\nb 1\n# HELP a late\n', 4, 'belongs to a, whose lines do not stand together'],
      ['# TYPE a gauge\n# TYPE a counter\na 1\n', 2, 'is a second TYPE of a'],
      ['a 1\n# TYPE a gauge\n', 2, 'describes a behind its samples'],
      [
        '# TYPE h histogram\nh_bucket{le="5"} 1\nh_bucket{le="1"} 2\nh_bucket{le="+Inf"} 3\n',
        3,
        'is a bucket below the one before it: bounds must rise'
      ],
      [
        '# TYPE h histogram\nh_bucket{le="1"} 2\nh_bucket{le="5"} 1\n',
        3,
        'is a bucket with a smaller count than the one before it: counts must not fall'
      ],
      ['# EOFx\nup 1\n', 1, 'starts like # EOF, but has more text']
    ];
    for (const [text, line, reason] of cases) {
      const { faults, complete } = readExposition(`${text}# EOF\n`);
      expect(
        faults.map((fault) => [fault.line, fault.reason]),
        text
      ).to.deep.equal([[line, reason]]);
      expect(complete, text).to.equal(true);
    }
    const several =
      '# TYPE h histogram\nh_bucket{le="1"} 1\nh_bucket{le="+Inf"} 2\nh_bucket{x="y",le="1"} 1\nup 1 4\nup 2 5\n# EOF\n';
    expect(readExposition(several).faults).to.deep.equal([]);
  });

  it('keeps backslashes that stand before nothing special, and names of every object', () => {
    const { samples, faults } = readExposition(
      '# TYPE valueOf gauge\nvalueOf{__proto__="a",path="C:\\x\\n"} 1\n# EOF\n'
    );
    expect(faults).to.deep.equal([]);
    expect(Object.entries(samples[0]!.labels)).to.deep.equal([
      ['__proto__', 'a'],
      ['path', 'C:\\x\n']
    ]);
    expect(ucumOf({ name: 'a_valueOf', unit: '' })).to.equal('1');
    expect(ucumOf({ name: 'a', unit: 'constructor' })).to.equal('{constructor}');
  });

  it('says when the end is missing, and when something stands behind it', () => {
    expect(readExposition('up 1\nup{a="1"} 2').complete).to.equal(false);
    expect(readExposition('up 1\n# EOF\nup 2\n').faults[0]?.reason).to.equal('stands behind # EOF');
  });

  it('gives back whatever labels and values were written', () => {
    const label = fc.tuple(fc.stringMatching(/^[a-z_][a-z0-9_]{0,8}$/), fc.string());
    fc.assert(
      fc.property(
        fc.uniqueArray(label, { selector: ([key]) => key, maxLength: 5 }),
        fc.double({ noDefaultInfinity: true, noNaN: true }),
        (labels, value) => {
          const written = labels.map(
            ([key, text]) => `${key}="${text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`
          );
          const { samples } = readExposition(`m{${written.join(',')}} ${value}\n# EOF\n`);
          expect(samples[0]?.labels).to.deep.equal(Object.fromEntries(labels));
          expect(samples[0]?.value).to.equal(value);
        }
      )
    );
  });

  it('never throws, whatever it is given', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('#', ' ', '{', '}', '"', '\\', '=', ',', '\n', 'a', '1', '_') }),
        (text) => void readExposition(text)
      )
    );
  });
});
