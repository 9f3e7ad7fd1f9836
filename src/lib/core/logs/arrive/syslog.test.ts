import { expect } from 'chai';
import fc from 'fast-check';
import { framesOf, longestMessage, readSyslog } from './syslog';

const now = Date.UTC(2026, 4, 4, 8);
const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
const framed = (...messages: readonly string[]): Uint8Array =>
  Buffer.concat(messages.map((one) => Buffer.concat([encode(`${encode(one).length} `), encode(one)])));
const read = (...messages: readonly string[]) => readSyslog(framed(...messages), now);
const onlyLine = (message: string) => {
  const { batches } = read(message);
  return { origin: batches[0]?.origin.resource, line: batches[0]?.lines[0] };
};

describe('syslog', () => {
  it('is read with every field', () => {
    const { origin, line } = onlyLine(
      '<165>1 2026-05-04T07:59:58.123456Z harbour-n1 warden 704 ID47 [check@32473 room="4" says="a \\"b\\" \\] c"][x@1] \uFEFFcontainer é ended'
    );
    expect(origin).to.deep.equal({ 'host.name': 'harbour-n1', 'service.name': 'warden' });
    expect(line).to.deep.include({
      at: now - 2000 + 123,
      nanos: 456_000,
      severity: 10,
      severityText: 'notice',
      text: 'container é ended',
      fields: {
        'syslog.facility': 20n,
        'process.pid': 704n,
        'syslog.msgid': 'ID47',
        'check@32473.room': '4',
        'check@32473.says': 'a "b" ] c'
      }
    });
  });

  it('may say next to nothing', () => {
    const { origin, line } = onlyLine('<0>1 - - - - - -');
    expect(origin).to.deep.equal({});
    expect(line).to.deep.include({ at: now, severity: 24, text: '', fields: { 'syslog.facility': 0n } });
  });

  it('that is none is refused alone, and counted', () => {
    const arrived = read(
      '<14>1 - harbour-n1 agent - - - fine',
      '<14>Oct 11 22:14:15 harbour-n1 su: an older form',
      '<999>1 - - - - - - x',
      '<14>1 noon - - - - - x',
      '<14>1 - - - - - [a b=c] x',
      '<14>1 - - - - - [a b="c" x',
      '<14>1 - - - - - -x'
    );
    expect(arrived.batches.flatMap(({ lines }) => lines)).to.have.length(1);
    expect(arrived.refused).to.equal(6);
  });

  it('is taken apart wherever its stream is cut', () => {
    const bytes = framed('<14>1 - a b - - - one', '<14>1 - a b - - - two: 5 x', '<14>1 - a b - - - é');
    const whole = framesOf(bytes);
    expect(whole).to.deep.include({ end: bytes.length, isBroken: false });
    fc.assert(
      fc.property(fc.array(fc.nat(bytes.length), { maxLength: 6 }), (cuts) => {
        const texts: string[] = [];
        let held = new Uint8Array(0);
        const places = [0, ...cuts.sort((a, b) => a - b), bytes.length];
        for (let index = 1; index < places.length; index++) {
          held = Uint8Array.from([...held, ...bytes.subarray(places[index - 1], places[index])]);
          const { messages, end, isBroken } = framesOf(held);
          expect(isBroken).to.equal(false);
          texts.push(...messages.map(([from, to]) => Buffer.from(held.subarray(from, to)).toString()));
          held = held.slice(end);
        }
        expect(texts).to.deep.equal(
          whole.messages.map(([from, to]) => Buffer.from(bytes.subarray(from, to)).toString())
        );
      })
    );
  });

  it('of which the lengths are none is broken: what follows cannot be told apart', () => {
    for (const text of ['<14>1 - - - - - -', '0 ', '5x', '999999 ', `${longestMessage + 1} `, ' 5 hello', '123456'])
      expect(framesOf(encode(text)).isBroken, text).to.equal(true);
    for (const text of ['', '1', '12345', '5 hell']) expect(framesOf(encode(text)).isBroken, text).to.equal(false);
  });

  it('never does anything but arrive or be refused, whatever is sent', () => {
    const piece = fc.oneof(
      fc.constantFrom('<14>1 ', '- ', '2026-05-04T08:00:00Z ', '[a@1 b="c"]', '[', ']', '"', '\\', ' ', 'x'),
      fc.string({ unit: 'binary', maxLength: 8 })
    );
    fc.assert(
      fc.property(fc.array(fc.array(piece, { maxLength: 14 }), { minLength: 1, maxLength: 4 }), (messages) => {
        const texts = messages.map((one) => one.join('')).filter((one) => one !== '');
        const { batches, refused } = read(...texts);
        expect(batches.reduce((sum, { lines }) => sum + lines.length, refused)).to.equal(texts.length);
      }),
      { numRuns: 2000 }
    );
  });
});
