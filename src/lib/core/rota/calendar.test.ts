import { expect } from 'chai';
import fc from 'fast-check';
import nodeIcal from 'node-ical';
import { hour, instant, instantFromText, times, type Instant } from '../time';
import { calendarText, onCallAt, readCalendar, rotaSchema, shiftsIn } from './index';

const now = instantFromText('2026-11-28T07:00:00Z');
const year = { from: now, to: instantFromText('2027-11-28T00:00:00Z') };
const lines = (...all: string[]) => ['BEGIN:VCALENDAR', 'VERSION:2.0', ...all, 'END:VCALENDAR'].join('\r\n');
const event = (...all: string[]) => ['BEGIN:VEVENT', 'UID:1', ...all, 'END:VEVENT'];
const spansOf = (text: string, zone = 'Europe/Rome') => {
  const read = readCalendar(text, year, zone);
  if (read.kind !== 'read') throw new Error(read.message);
  return read.occurrences.map(({ from, to }) => [new Date(from).toISOString(), new Date(to).toISOString()]);
};

describe('calendars of rotas', () => {
  it('read back by another iCalendar library give the same shifts, over changes of clocks', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Europe/Rome', 'America/New_York', 'UTC', 'Pacific/Auckland'),
        fc.constantFrom('08:00', '02:30', '00:00', '23:59'),
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 0, max: 400 }),
        (zone, at, days, offset) => {
          const rota = rotaSchema.parse({
            ...{ name: 'Data; "nights", and\nmore', zone },
            layers: [{ people: [1, 2, 3], days, from: '2026-01-05', at }]
          });
          const from = instant(instantFromText('2026-02-01T00:00:00Z') + times(24 * offset, hour));
          const shifts = shiftsIn(rota, [], { from, to: instant(from + times(24 * 40, hour)) });
          const entries = shifts.map((shift) => ({
            ...{ from: shift.from, to: shift.to, uid: `${shift.from}` },
            summary: `${rota.name}: ${shift.personId}`
          }));
          const back = Object.values(nodeIcal.sync.parseICS(calendarText(rota.name, entries, now))).flatMap((one) =>
            one?.type === 'VEVENT' ? [one] : []
          );
          expect(
            back.map(({ start, end, summary }) => [start.getTime(), end?.getTime(), summary]).sort()
          ).to.deep.equal(entries.map(({ from: begin, to, summary }) => [begin as number, to, summary]).sort());
          for (const { from: begin, to, personId } of shifts)
            for (const moment of [begin, to - 1]) expect(onCallAt(rota, [], moment as Instant)).to.equal(personId);
        }
      ),
      { numRuns: 60 }
    );
  });

  it('come back from their own text', () => {
    const [from, to] = [instant(now + hour), instant(now + times(3, hour))];
    const text = calendarText('Data', [{ from, to, uid: 'a', summary: 'Data: Ivo Brandt' }], now);
    expect(readCalendar(text, year, 'UTC')).to.deep.equal({
      kind: 'read',
      occurrences: [{ from, to, summary: 'Data: Ivo Brandt', who: [] }]
    });
  });

  it('that repeat are counted out by the clocks of their zone, without what was left out or moved', () => {
    const weekly = lines(
      ...event(
        'DTSTART;TZID=Europe/Rome:20261204T200000',
        'DTEND;TZID=Europe/Rome:20261205T080000',
        'RRULE:FREQ=WEEKLY;UNTIL=20270501T000000Z',
        'EXDATE;TZID=Europe/Rome:20261211T200000',
        'SUMMARY:Ivo Brandt'
      ),
      ...event(
        'RECURRENCE-ID;TZID=Europe/Rome:20261218T200000',
        'DTSTART;TZID=Europe/Rome:20261219T200000',
        'DTEND;TZID=Europe/Rome:20261220T080000',
        'SUMMARY:Ivo Brandt'
      )
    );
    const spans = spansOf(weekly);
    expect(spans.slice(0, 3)).to.deep.equal([
      ['2026-12-04T19:00:00.000Z', '2026-12-05T07:00:00.000Z'],
      ['2026-12-19T19:00:00.000Z', '2026-12-20T07:00:00.000Z'],
      ['2026-12-25T19:00:00.000Z', '2026-12-26T07:00:00.000Z']
    ]);
    expect(spans.at(-1), 'after clocks were set forward').to.deep.equal([
      '2027-04-30T18:00:00.000Z',
      '2027-05-01T06:00:00.000Z'
    ]);
  });

  it('without a zone are those of the rota, and whole days last from midnight to midnight', () => {
    expect(spansOf(lines(...event('DTSTART:20261204T200000', 'DURATION:PT2H')))).to.deep.equal([
      ['2026-12-04T19:00:00.000Z', '2026-12-04T21:00:00.000Z']
    ]);
    expect(spansOf(lines(...event('DTSTART;VALUE=DATE:20261204')))).to.deep.equal([
      ['2026-12-03T23:00:00.000Z', '2026-12-04T23:00:00.000Z']
    ]);
  });

  it('name whoever attends', () => {
    const text = lines(
      ...event('DTSTART:20261204T200000', 'DURATION:PT2H', 'ATTENDEE;CN=Ivo Brandt:mailto:ivo.brandt@example.test')
    );
    const read = readCalendar(text, year, 'UTC');
    expect(read.kind === 'read' && read.occurrences[0]?.who).to.deep.equal(['ivo.brandt@example.test', 'ivo brandt']);
  });

  it('that are none, or never end, are refused or bounded', () => {
    const messageOf = (text: string) => {
      const read = readCalendar(text, year, 'UTC');
      return read.kind === 'unreadable' ? read.message : `${read.occurrences.length} occurrences`;
    };
    expect(messageOf('hello')).to.match(/^It is no iCalendar file/);
    expect(messageOf('BEGIN:VCARD\r\nEND:VCARD')).to.match(/^It is no iCalendar file/);
    expect(messageOf('x'.repeat(1_000_001))).to.match(/more than 1 MB/);
    const each = (rule: string) => lines(...event('DTSTART:20261204T200000Z', 'DURATION:PT1S', `RRULE:${rule}`));
    expect(messageOf(each('FREQ=SECONDLY'))).to.match(/more than 2000 occurrences/);
    expect(messageOf(each('FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30')), 'a day that never comes again').to.equal(
      '1 occurrences'
    );
  }).timeout(60_000);
});
