import { expect } from 'chai';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { hour, instant, instantFromText, type Instant } from '../time';
import { covers, isInForce, nextChange, occurrenceAt, recurrenceProblem, scopeSchema, shelvingSchema } from './index';

const from = instantFromText('2026-10-24T22:00:00Z'); // Sunday 00:00 in Rome, on the night when clocks are set back
const span = (more: object = {}) => ({
  from,
  to: instant(from + 4 * hour),
  recurs: null,
  zone: 'Europe/Rome',
  ...more
});
const text = (at: number | undefined) => (at === undefined ? null : new Date(at).toISOString());

describe('what is shelved for a time', () => {
  it('is in force from its beginning until before its end, once', () => {
    expect([-1, 0, 4 * hour - 1, 4 * hour].map((ms) => isInForce(span(), instant(from + ms)))).to.deep.equal([
      ...[false, true, true, false]
    ]);
    expect(nextChange(span(), instant(from - 1))).to.equal(from);
    expect(nextChange(span(), from)).to.equal(from + 4 * hour);
    expect(nextChange(span(), instant(from + 4 * hour))).to.equal(null);
  });

  it('recurs at the same time of the clocks, also when these are changed, until its rule ends', () => {
    const weekly = span({ recurs: 'FREQ=WEEKLY;COUNT=3' });
    expect(text(occurrenceAt(weekly, instant(from + 5 * hour))?.from)).to.equal('2026-10-31T23:00:00.000Z');
    expect(text(occurrenceAt(weekly, instantFromText('2026-11-07T23:00:00Z'))?.to)).to.equal(
      '2026-11-08T03:00:00.000Z'
    );
    expect(occurrenceAt(weekly, instantFromText('2026-11-08T03:00:00Z'))).to.equal(null);
  });

  it('equals a slow search by days, whatever the zone and the hour', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Europe/Rome', 'America/New_York', 'UTC'),
        fc.integer({ min: 0, max: 23 }),
        fc.integer({ min: 1, max: 30 }),
        fc.constantFrom(1, 2, 7),
        fc.integer({ min: 0, max: 24 * 220 }),
        (zone, at, hours, every, offset) => {
          const begin = DateTime.fromObject({ year: 2026, month: 9, day: 1, hour: at }, { zone });
          const length = Math.min(hours, every * 24) * hour;
          const first = begin.toMillis();
          const recurring = {
            from: instant(first),
            to: instant(first + length),
            recurs: `FREQ=DAILY;INTERVAL=${every}`,
            zone
          };
          const moment = first + offset * hour;
          const starts = Array.from({ length: 260 }, (_, i) => begin.plus({ days: i * every }).toMillis());
          const slow = starts.some((start) => start <= moment && moment < start + length);
          expect(isInForce(recurring, moment as Instant)).to.equal(slow);
        }
      ),
      { numRuns: 300 }
    );
  });

  it('has a rule that is one, and recurs daily at most', () => {
    expect(recurrenceProblem('FREQ=WEEKLY;BYDAY=SU')).to.equal(null);
    expect(recurrenceProblem('FREQ=MINUTELY')).to.match(/^It has to recur daily/);
    for (const rule of ['weekly', '', 'FREQ=SOMETIMES']) expect(recurrenceProblem(rule), rule).not.to.equal(null);
    const never = span({ recurs: 'FREQ=DAILY;UNTIL=20261101T000000Z' });
    expect(occurrenceAt(never, instantFromText('2027-01-01T00:00:00Z')), 'its rule has ended').to.equal(null);
  }).timeout(60_000);

  it('is about what its scope says, all of it', () => {
    const incident = {
      ...{ severity: 'major' as const, service: 'gateways', account: 'corallo-prod', region: 'dorsale-1' },
      ...{ resource: 'dorsale-gw-2', alarmId: 3, incidentId: 7, labels: { team: 'net' }, groupIds: [2] }
    } as const;
    const is = (scope: object) => covers(scopeSchema.parse(scope), incident);
    expect(
      [{ alarmIds: [3] }, { resources: ['dorsale-gw-2'] }, { services: ['gateways'], groupIds: [2] }].map(is)
    ).to.deep.equal([...[true, true, true]]);
    expect(
      [{ alarmIds: [4] }, { alarmIds: [3], resources: ['x'] }, { labels: [{ label: 'team', is: ['data'] }] }].map(is)
    ).to.deep.equal([...[false, false, false]]);
    expect(scopeSchema.safeParse({ severities: ['minor'] }).success, 'everything minor, everywhere').to.equal(false);
  });

  it('has a reason, and an end within a month', () => {
    const problemOf = (more: object) =>
      shelvingSchema.safeParse({
        kind: 'shelved',
        reason: 'disk is exchanged',
        scope: { alarmIds: [1] },
        ...span(),
        ...more
      }).error?.issues[0]?.message;
    expect(problemOf({})).to.equal(undefined);
    expect(problemOf({ reason: ' ' })).to.match(/^Say why/);
    expect(problemOf({ to: from })).to.equal('It ends before it begins.');
    expect(problemOf({ to: from + 31 * 24 * hour })).to.equal('Shelve for 30 days at most.');
    expect(problemOf({ recurs: 'now and then' })).to.match(/RFC 5545/);
  });
});
