import { expect } from 'chai';
import fc from 'fast-check';
import { isRefused } from '../../problem/problem';
import { readJsonLogs, readOtlpLogs, lineLimits, type Arrived } from '../index';

const now = Date.UTC(2026, 4, 4, 14);
const nanos = (ms: number, more = 0) => String(BigInt(ms) * 1_000_000n + BigInt(more));
const linesOf = ({ batches }: Arrived) => batches.flatMap(({ lines }) => lines);
const onlyLine = (arrived: Arrived) => {
  const lines = linesOf(arrived);
  expect(lines).to.have.length(1);
  return lines[0];
};
const reasonsOf = ({ refused, faults }: Arrived) => [
  refused,
  ...faults.map(({ fault, count }) => `${fault}: ${count}`)
];

describe('lines by OTLP', () => {
  const request = (...logRecords: object[]) => ({
    resourceLogs: [
      {
        resource: { attributes: [{ key: 'service.name', value: { stringValue: 'quote' } }] },
        scopeLogs: [{ scope: { name: 'fares', version: '2' }, logRecords }]
      }
    ]
  });
  const read = (...logRecords: object[]) => readOtlpLogs(request(...logRecords), now, 'hex');

  it('have everything that was sent, with its types', () => {
    const arrived = read({
      timeUnixNano: nanos(now - 5, 123_456),
      observedTimeUnixNano: nanos(now, 7),
      severityNumber: 17,
      severityText: 'ERROR',
      body: { stringValue: 'cannot allocate 64 MiB' },
      attributes: [
        { key: 'pid', value: { intValue: '9007199254740993' } },
        { key: 'share', value: { doubleValue: 0.5 } },
        { key: 'is last', value: { boolValue: false } },
        { key: 'none', value: {} },
        { key: 'raw', value: { bytesValue: 'AQID' } },
        {
          key: 'list',
          value: {
            arrayValue: {
              values: [{ intValue: 1 }, { kvlistValue: { values: [{ key: 'a', value: { stringValue: 'b' } }] } }]
            }
          }
        }
      ],
      droppedAttributesCount: 2,
      flags: 1,
      traceId: '5B8EFFF798038103D269B633813FC60C',
      spanId: 'EEE19B7EC3C1B174',
      eventName: 'memory.exhausted'
    });
    expect(arrived.refused).to.equal(0);
    expect(arrived.batches[0]?.origin).to.deep.include({
      resource: { 'service.name': 'quote' },
      scope: { name: 'fares', version: '2', fields: {}, dropped: 0 }
    });
    expect(onlyLine(arrived)).to.deep.equal({
      at: now - 5,
      nanos: 123_456,
      observed: { at: now, nanos: 7 },
      severity: 17,
      severityText: 'ERROR',
      text: 'cannot allocate 64 MiB',
      fields: {
        pid: 9007199254740993n,
        share: 0.5,
        'is last': false,
        none: null,
        raw: Uint8Array.of(1, 2, 3),
        list: [1n, { a: 'b' }]
      },
      fieldsDropped: 2,
      trace: '5b8efff798038103d269b633813fc60c',
      span: 'eee19b7ec3c1b174',
      flags: 1,
      event: 'memory.exhausted'
    });
  });

  it('have the time when they were seen where they say none, and now where nobody does', () => {
    expect(onlyLine(read({ observedTimeUnixNano: nanos(now - 9), body: { stringValue: 'x' } }))).to.include({
      at: now - 9
    });
    expect(onlyLine(read({ body: { stringValue: 'x' } }))).to.include({ at: now, nanos: 0 });
  });

  it('of a body that is no text have its JSON as text, and the body itself', () => {
    const line = onlyLine(read({ body: { kvlistValue: { values: [{ key: 'order', value: { intValue: '88' } }] } } }));
    expect(line).to.deep.include({ text: '{"order":88}', body: { order: 88n } });
  });

  it('are read without the colours of a terminal, which their body has', () => {
    const body = '\u001b[31mERROR\u001b[0m gone';
    expect(onlyLine(read({ body: { stringValue: body } }))).to.deep.include({ text: 'ERROR gone', body });
  });

  it('know their severity by words where they have no number', () => {
    expect(onlyLine(read({ severityText: 'Warning', body: { stringValue: 'x' } }))).to.include({ severity: 13 });
  });

  it('that cannot be read, or come from a wrong clock, are refused alone', () => {
    const arrived = read(
      { body: { stringValue: 'fine' } },
      { body: { intValue: '99999999999999999999' } },
      { body: 'text' },
      { timeUnixNano: 'noon', body: {} },
      { timeUnixNano: nanos(now + 3_600_000), body: {} },
      { timeUnixNano: nanos(1000), body: {} }
    );
    expect(linesOf(arrived)).to.have.length(1);
    expect(reasonsOf(arrived)).to.deep.equal([
      5,
      'cannot be read: 3',
      'more than ten minutes ahead: 1',
      'no possible time: 1'
    ]);
  });

  it('are bounded: a long text is cut, too many fields are left out, and both are counted', () => {
    const attributes = Array.from({ length: 10_000 }, (_, index) => ({ key: `f${index}`, value: { intValue: index } }));
    const arrived = read({ body: { stringValue: 'x'.repeat(1_000_000) }, attributes });
    const line = onlyLine(arrived);
    expect(line?.text).to.have.length(lineLimits.text);
    expect(Object.keys(line?.fields ?? {})).to.have.length(lineLimits.fields);
    expect(line?.fieldsDropped).to.equal(10_000 - lineLimits.fields);
    expect(reasonsOf(arrived)).to.deep.equal([
      0,
      'longer than is stored, the rest was left out: 1',
      'more fields than are stored, the others were left out: 1'
    ]);
  });

  it('have no trace where its id is no base64', () => {
    for (const traceId of ['A', 'AAAAA', 'A=', 'AA=', '====', 'AAAA====', 'å'])
      expect(
        linesOf(readOtlpLogs(request({ body: { stringValue: 'x' }, traceId }), now, 'base64'))[0],
        traceId
      ).to.include({ text: 'x', trace: '' });
  });

  it('never do anything but arrive or be refused, whatever is sent', () => {
    const any = fc.anything({ maxDepth: 6, withBigInt: false });
    const record = fc.record({ body: any, attributes: any, timeUnixNano: any, traceId: any, severityNumber: any });
    fc.assert(
      fc.property(
        fc.oneof(
          any,
          fc.array(record).map((records) => request(...records))
        ),
        (body) => {
          try {
            readOtlpLogs(body, now, 'base64');
          } catch (error) {
            if (!isRefused(error, 'unreadable')) throw error;
          }
        }
      ),
      { numRuns: 2000 }
    );
  });
});

describe('lines as JSON, one a line', () => {
  const read = (...lines: object[]) => readJsonLogs(lines.map((line) => JSON.stringify(line)).join('\n'), now);

  it('have their time, severity, text, trace and fields under the usual names', () => {
    const arrived = read({
      ts: '2026-05-04T13:59:58.123456789Z',
      level: 'warn',
      msg: 'retry 1 of 3',
      trace_id: '5b8efff798038103d269b633813fc60c',
      attempt: 1,
      took: 1.5,
      'k8s.pod.name': 'quote-7'
    });
    expect(arrived.batches[0]?.origin.resource).to.deep.equal({ 'k8s.pod.name': 'quote-7' });
    expect(onlyLine(arrived)).to.deep.include({
      at: Date.UTC(2026, 4, 4, 13, 59, 58, 123),
      nanos: 456_789,
      severity: 13,
      text: 'retry 1 of 3',
      trace: '5b8efff798038103d269b633813fc60c',
      fields: { attempt: 1n, took: 1.5 }
    });
  });

  it('say times in any of the units that programs use', () => {
    for (const time of [now / 1000, now, now * 1000, '2026-05-04T14:00:00Z', '2026-05-04T16:00:00+02:00'])
      expect(onlyLine(read({ time, message: 'x' })), String(time)).to.include({ at: now });
    expect(onlyLine(read({ message: 'x' })), 'none').to.include({ at: now });
  });

  it('without a text have all that they say as their text', () => {
    expect(onlyLine(read({ order: 88 }))).to.deep.include({ text: '{"order":88}', fields: { order: 88n } });
  });

  it('that cannot be read are refused alone, and all of them whole', () => {
    const arrived = readJsonLogs('{"msg":"fine"}\n\n[1]\nplain text\n{"msg":"x","time":"noon"}\n{"__proto__":1}', now);
    expect(linesOf(arrived).map(({ text }) => text)).to.deep.equal(['fine', '{"__proto__":1}']);
    expect(reasonsOf(arrived)).to.deep.equal([3, 'cannot be read: 2', 'no possible time: 1']);
    expect(() => readJsonLogs('x\n'.repeat(2000), now)).to.throw(/Nothing of it can be read as lines/);
  });

  it('that are nested very deep are cut or refused, and hold nothing up', () => {
    const deep = (depth: number) => `{"a":${'['.repeat(depth)}1${']'.repeat(depth)}}`;
    const arrived = readJsonLogs([deep(10), deep(1000), deep(200_000), '{"msg":"fine"}'].join('\n'), now);
    const texts = linesOf(arrived).map(({ text }) => text);
    expect(texts[0]).to.equal(deep(10));
    expect(texts[1]).to.have.length.below(100);
    expect(texts.at(-1)).to.equal('fine');
    expect(texts.length + arrived.refused).to.equal(4);
  });

  it('never do anything but arrive or be refused, whatever is sent', () => {
    const piece = fc.constantFrom(
      '{',
      '}',
      '"',
      ':',
      '[',
      ']',
      ',',
      '\n',
      '"msg"',
      '"time"',
      '1e999',
      '\u0000',
      '\ud800',
      'null'
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        readJsonLogs(pieces.join(''), now);
      }),
      { numRuns: 2000 }
    );
  });
});
