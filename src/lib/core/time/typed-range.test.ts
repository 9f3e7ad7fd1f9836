import { expect } from 'chai';
import fc from 'fast-check';
import { hour, instantFromText, resolveRange, textFromInstant, typedRange } from './index';

describe('a range that is typed', () => {
  const now = instantFromText('2026-05-04T14:30:00Z');
  const zone = 'Europe/Berlin';
  const read = (text: string, at = now) => {
    const typed = typedRange(text, at, zone);
    return typed.kind === 'read' ? typed.range : typed.why;
  };
  const span = (text: string, at = now) => {
    const range = read(text, at);
    if (typeof range === 'string') return range;
    const { from, to } = resolveRange(range, at);
    return `${textFromInstant(from)} ${textFromInstant(to)}`;
  };

  it('is a length up to now, in words or as an ISO 8601 duration', () => {
    for (const text of ['last 3 h', '3h', 'Last  3 hours', 'PT3H', '180 min', 'pt180m'])
      expect(read(text), text).to.deep.equal({ kind: 'live', length: 3 * hour });
    expect(read('last week')).to.deep.equal({ kind: 'live', length: 7 * 24 * hour });
    expect(read('1.5 h')).to.deep.equal({ kind: 'live', length: 1.5 * hour });
    expect(read('P2D')).to.deep.equal({ kind: 'live', length: 48 * hour });
  });

  it('is from one moment to another, of the reader’s clock unless it says a zone', () => {
    expect(span('2026-05-04 08:00 to 10:00')).to.equal('2026-05-04T06:00:00.000Z 2026-05-04T08:00:00.000Z');
    expect(span('2026-05-04T08:00:00Z to now')).to.equal('2026-05-04T08:00:00.000Z 2026-05-04T14:30:00.000Z');
    expect(span('8:00 to 9:30')).to.equal('2026-05-04T06:00:00.000Z 2026-05-04T07:30:00.000Z');
    expect(span('2026-05-01 to 2026-05-03')).to.equal('2026-04-30T22:00:00.000Z 2026-05-02T22:00:00.000Z');
  });

  it('is a day as long as it is there: 23 hours when clocks go forward', () => {
    expect(span('2026-03-29')).to.equal('2026-03-28T23:00:00.000Z 2026-03-29T22:00:00.000Z');
    expect(span('yesterday')).to.equal('2026-05-02T22:00:00.000Z 2026-05-03T22:00:00.000Z');
    expect(span('today')).to.equal('2026-05-03T22:00:00.000Z 2026-05-04T14:30:00.000Z');
  });

  it('that cannot be read says how one is written; one that cannot be shown says why', () => {
    for (const text of ['', 'soon', 'h', '10:00', 'last', '2026-13-40 to now', 'now to 10:00'])
      expect(read(text), text).to.match(/^Write for example/);
    for (const text of ['10:00 to 09:00', '5 weeks to 3', 'last 99999 days', 'PT10S', '2026-05-04 08:00 to 08:00'])
      expect(read(text), text).to.be.a('string');
    expect(read('10:00 to 09:00')).to.equal('A range is 1 minute to 400 days long, and its end is after its start.');
  });

  it('never breaks, whatever is typed', () => {
    const piece = fc.constantFrom(
      'last',
      '3',
      'h',
      'to',
      'now',
      '2026-05-04',
      '08:00',
      'P',
      'T',
      'day',
      '-',
      '–',
      ' ',
      ':'
    );
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(piece, { maxLength: 8 }).map((all) => all.join(' '))
        ),
        (text) => {
          const typed = typedRange(text, now, zone);
          if (typed.kind === 'unreadable') {
            expect(typed.why).to.not.equal('');
            return;
          }
          const { from, to } = resolveRange(typed.range, now);
          expect(to - from).to.be.at.least(60_000);
        }
      )
    );
  });
});
