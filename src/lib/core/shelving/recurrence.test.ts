import { expect } from 'chai';
import { chanceOf } from '../../../../tests/support/chance';
import { day, hour, instant, instantFromText, minute, range, type Instant, type Range } from '../time';
import { isInForce, nextChange, occurrenceAt, occurrencesIn, type Recurring } from './recurrence';

const rules = [
  'FREQ=DAILY',
  'FREQ=WEEKLY;BYDAY=SU',
  'FREQ=WEEKLY;BYDAY=MO,WE',
  'FREQ=MONTHLY;BYMONTHDAY=1',
  'FREQ=DAILY;INTERVAL=3',
  null
];
const zones = ['UTC', 'Europe/Rome', 'America/New_York'];
const start = instantFromText('2026-03-20T22:00:00Z');

/** Spans in which it is in force, found by asking every quarter of an hour. */
function slowly(shelving: Recurring, { from, to }: Range): [number, number][] {
  const quarter = 15 * minute;
  const found: [number, number][] = [];
  let since: number | null = null;
  for (let at = from as number; at <= to; at += quarter) {
    const isOn = at < to && isInForce(shelving, at as Instant);
    if (isOn && since === null) since = at;
    if (!isOn && since !== null) {
      found.push([since, at]);
      since = null;
    }
  }
  return found;
}

describe('occurrences of what recurs', () => {
  it('in a span are those that asking every quarter of an hour finds, also where clocks change', function () {
    this.timeout(180_000);
    const { unit, between } = chanceOf(21);
    for (let round = 0; round < 36; round++) {
      const recurs = rules[round % rules.length] ?? null;
      const zone = zones[Math.floor(unit() * zones.length)] as string;
      // Whole quarters, so that the slow way sees every begin and end.
      const from = (start + Math.floor(between(0, 40)) * 15 * minute) as Instant;
      const length = (1 + Math.floor(between(0, 11))) * 15 * minute;
      const shelving: Recurring = { ...range(from, (from + length) as Instant), recurs, zone };
      const begin = (start + Math.floor(between(-2, 12)) * day) as Instant;
      const span = range(begin, (begin + Math.floor(between(3, 20)) * day) as Instant);
      const expected = slowly(shelving, span);
      const found = occurrencesIn(shelving, span, 100).map((one): [number, number] => [
        Math.max(one.from, span.from),
        Math.min(one.to, span.to)
      ]);
      expect(found, `${recurs} in ${zone} from ${from}`).to.deep.equal(expected);
    }
  });

  it('are cut off after so many, and come in order without touching what is before the span', () => {
    const nightly: Recurring = { ...range(start, (start + 2 * hour) as Instant), recurs: 'FREQ=DAILY', zone: 'UTC' };
    const span = range((start + 10 * day) as Instant, (start + 30 * day) as Instant);
    const found = occurrencesIn(nightly, span, 5);
    expect(found.map(({ from }) => (from - start) / day)).to.deep.equal([10, 11, 12, 13, 14]);
    expect(occurrencesIn(nightly, range(instant(0), start), 5), 'before the first').to.deep.equal([]);
    const once: Recurring = { ...nightly, recurs: null };
    expect(occurrencesIn(once, span, 5), 'it is over').to.deep.equal([]);
    expect(occurrencesIn(once, range(start, (start + day) as Instant), 5)).to.deep.equal([
      range(start, (start + 2 * hour) as Instant)
    ]);
  });

  it('change next when one begins or ends, and never again once it is over', () => {
    const once: Recurring = { ...range(start, (start + 2 * hour) as Instant), recurs: null, zone: 'UTC' };
    expect(nextChange(once, (start - 1) as Instant)).to.equal(start);
    expect(nextChange(once, start)).to.equal(start + 2 * hour);
    expect(nextChange(once, (start + 2 * hour) as Instant)).to.equal(null);
    const nightly: Recurring = { ...once, recurs: 'FREQ=DAILY' };
    expect(nextChange(nightly, (start + 2 * hour) as Instant)).to.equal(start + day);
    expect(occurrenceAt(nightly, (start + day + hour) as Instant)?.from).to.equal(start + day);
    expect(isInForce(nightly, (start + 2 * hour) as Instant), 'its end is not in it').to.equal(false);
  });
});
