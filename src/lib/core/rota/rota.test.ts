import { expect } from 'chai';
import fc from 'fast-check';
import { instant, instantFromText, range, type Instant } from '../time';
import { gapsIn, onCallAt, rotaSchema, shiftAt, shiftsIn, type Layer, type Override, type Rota } from './index';
import { slowOnCall } from './slow-reference';

const at = (text: string) => instantFromText(text);
const weekly = (people: number[], more: Partial<Layer> = {}): Layer => ({
  ...{ name: '', people, days: 7, from: '2026-11-23', until: null, at: '08:00', zone: null, hours: [] },
  ...more
});
const rota = (...layers: Layer[]): Rota => rotaSchema.parse({ name: 'Data', zone: 'Europe/Rome', layers });

describe('who has the watch', () => {
  const days = weekly([1, 2, 3], { hours: [{ weekdays: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '20:00' }] });

  it('is handed over in turn at a time of the zone', () => {
    const week = rota(weekly([1, 2, 3]));
    expect(onCallAt(week, [], at('2026-11-23T06:59:59Z'))).to.equal(null);
    expect(onCallAt(week, [], at('2026-11-23T07:00:00Z'))).to.equal(1);
    expect(onCallAt(week, [], at('2026-11-30T07:00:00Z'))).to.equal(2);
    expect(onCallAt(week, [], at('2026-12-14T07:00:00Z'))).to.equal(1);
  });

  it('is nobody’s outside of the hours of all layers, which is a gap', () => {
    const day = range(at('2026-11-24T00:00:00Z'), at('2026-11-25T00:00:00Z'));
    expect(shiftsIn(rota(days), [], day).map(({ personId }) => personId)).to.deep.equal([null, 1, null]);
    expect(gapsIn(rota(days), [], day).map(({ from }) => from)).to.deep.equal([day.from, at('2026-11-24T19:00:00Z')]);
    const nights = weekly([4], { hours: [{ weekdays: [1, 2, 3, 4, 5, 6, 7], from: '20:00', to: '08:00' }] });
    expect(gapsIn(rota(days, nights), [], day)).to.deep.equal([]);
  });

  it('is of the last layer that has it, and of an override before all layers', () => {
    const covered = rota(weekly([1]), weekly([2], { hours: [{ weekdays: [6, 7], from: '00:00', to: '00:00' }] }));
    expect(onCallAt(covered, [], at('2026-11-27T22:59:00Z'))).to.equal(1);
    expect(onCallAt(covered, [], at('2026-11-27T23:00:00Z'))).to.equal(2);
    const overrides = [
      { id: 1, from: at('2026-11-27T20:00:00Z'), to: at('2026-11-28T04:00:00Z'), personId: 7 },
      { id: 2, from: at('2026-11-28T02:00:00Z'), to: at('2026-11-28T03:00:00Z'), personId: 8 }
    ];
    const people = shiftsIn(covered, overrides, range(at('2026-11-27T12:00:00Z'), at('2026-11-28T12:00:00Z')));
    expect(people.map(({ personId }) => personId)).to.deep.equal([1, 7, 8, 7, 2]);
  });

  it('is handed over when the clocks are changed: at the change if the time is skipped, at its first if it comes twice', () => {
    const daily = weekly([1, 2], { days: 1, from: '2027-03-27', at: '02:30' });
    expect(shiftAt(rota(daily), [], at('2027-03-28T00:59:00Z')).to).to.equal(at('2027-03-28T01:00:00Z'));
    const autumn = weekly([1, 2], { days: 1, from: '2026-10-24', at: '02:30' });
    expect(shiftAt(rota(autumn), [], at('2026-10-25T00:10:00Z')).to).to.equal(at('2026-10-25T00:30:00Z'));
  });

  it('follows the sun by layers of several zones', () => {
    const office = [{ weekdays: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '20:00' }];
    const sun = rota(weekly([1], { hours: office }), weekly([2], { hours: office, zone: 'Pacific/Auckland' }));
    const shifts = shiftsIn(sun, [], range(at('2026-12-01T00:00:00Z'), at('2026-12-02T00:00:00Z')));
    expect(shifts.map(({ personId, from }) => [personId, new Date(from).toISOString().slice(11, 16)])).to.deep.equal([
      [2, '00:00'],
      [1, '07:00'],
      [2, '19:00']
    ]);
  });

  const zones = ['UTC', 'Europe/Rome', 'America/St_Johns', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'Pacific/Apia'];
  const quarter = fc
    .nat(95)
    .map((n) => `${String(Math.floor(n / 4)).padStart(2, '0')}:${['00', '15', '30', '45'][n % 4]}`);
  const hours = fc.record({
    weekdays: fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }),
    from: quarter,
    to: quarter
  });
  const dateFrom = (min: string, max: string) =>
    fc
      .date({ min: new Date(min), max: new Date(max), noInvalidDate: true })
      .map((one) => one.toISOString().slice(0, 10));
  const layer = fc.record({
    name: fc.constant(''),
    people: fc.array(fc.integer({ min: 1, max: 5 }), { minLength: 1, maxLength: 4 }),
    days: fc.constantFrom(1, 2, 7, 14),
    from: dateFrom('2023-06-01', '2027-12-31'),
    until: fc.option(dateFrom('2028-01-01', '2028-12-31')),
    at: quarter,
    zone: fc.option(fc.constantFrom(...zones)),
    hours: fc.array(hours, { maxLength: 3 })
  });
  const rotas = fc.record({ zone: fc.constantFrom(...zones), layers: fc.array(layer, { minLength: 1, maxLength: 3 }) });
  const moment = fc
    .integer({ min: Date.UTC(2023, 0), max: Date.UTC(2029, 0) })
    .map((ms) => instant(Math.floor(ms / 60_000) * 60_000));
  const overrides = fc.array(
    fc.record({ from: moment, hours: fc.integer({ min: 1, max: 4000 }), personId: fc.integer({ min: 6, max: 9 }) }),
    { maxLength: 4 }
  );
  // The clocks of all these zones are changed within a day of these: most of what is hard lies there.
  const hard = fc
    .tuple(
      fc.constantFrom(
        '2024-02-29',
        '2024-03-10',
        '2024-03-31',
        '2025-04-05',
        '2026-10-25',
        '2027-03-28',
        '2027-11-07',
        '2028-02-29',
        '2026-10-03'
      ),
      fc.integer({ min: -48 * 60, max: 48 * 60 })
    )
    .map(([date, minutes]) => instant(Date.parse(date) + minutes * 60_000));

  it('is at every instant as by a slow search, over years, zones and changes of clocks', () => {
    fc.assert(
      fc.property(
        rotas,
        overrides,
        fc.array(fc.oneof(moment, hard), { minLength: 3, maxLength: 6 }),
        (made, given, moments) => {
          const one = rotaSchema.parse({ name: 'a', ...made });
          const spans = given.map(({ from, hours: length, personId }, id): Override => ({
            id,
            from,
            to: instant(from + length * 3_600_000),
            personId
          }));
          for (const each of moments) expect(onCallAt(one, spans, each)).to.equal(slowOnCall(one, spans, each));
        }
      ),
      { numRuns: 60 }
    );
  }).timeout(180_000);

  it('has shifts that cover a range without gap and overlap, none like the one before it, each as at its instants', () => {
    fc.assert(
      fc.property(rotas, overrides, hard, fc.integer({ min: 1, max: 60 * 24 * 30 }), (made, given, from, minutes) => {
        const one = rotaSchema.parse({ name: 'a', ...made });
        const spans = given.map(({ from: begin, hours: length, personId }, id): Override => ({
          id,
          from: begin,
          to: instant(begin + length * 3_600_000),
          personId
        }));
        const within = range(from, instant(from + minutes * 60_000));
        const shifts = shiftsIn(one, spans, within);
        expect(shifts[0]?.from).to.equal(within.from);
        expect(shifts.at(-1)?.to).to.equal(within.to);
        for (const [position, shift] of shifts.entries()) {
          expect(shift.from).to.be.below(shift.to);
          expect(onCallAt(one, spans, shift.from)).to.equal(shift.personId);
          expect(onCallAt(one, spans, (shift.to - 1) as Instant)).to.equal(shift.personId);
          const before = shifts[position - 1];
          if (!before) continue;
          expect(before.to).to.equal(shift.from);
          expect({ person: before.personId, source: before.source }).to.not.deep.equal({
            person: shift.personId,
            source: shift.source
          });
        }
      }),
      { numRuns: 100 }
    );
  }).timeout(180_000);

  it('says which shift an instant is in as a whole', () => {
    expect(shiftAt(rota(weekly([1, 2])), [], at('2026-12-02T12:00:00Z'))).to.include({
      from: at('2026-11-30T07:00:00Z'),
      to: at('2026-12-07T07:00:00Z'),
      personId: 2
    });
  });

  it('cannot be of a rota without anybody, of no zone, or that ends before it begins', () => {
    const problemOf = (change: object) =>
      rotaSchema.safeParse({ ...rota(weekly([1])), ...change }).error?.issues[0]?.message;
    expect(problemOf({ zone: 'Perla/Harbour' })).to.equal('Give a time zone, such as Europe/Rome.');
    expect(problemOf({ layers: [weekly([])] })).to.equal('Choose somebody.');
    expect(problemOf({ layers: [weekly([1], { until: '2026-11-01' })] })).to.equal('The layer ends before it begins.');
  });
});
