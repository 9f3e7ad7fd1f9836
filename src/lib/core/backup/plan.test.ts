import { expect } from 'chai';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { instant, type Instant } from '../time';
import { backupPlanWords, lastDue, nextBackup } from './plan';

const zone = fc.constantFrom('UTC', 'Europe/Rome', 'America/Santiago', 'Australia/Lord_Howe', 'Pacific/Apia');
const when = fc.record({
  every: fc.constantFrom('day' as const, 'week' as const),
  weekday: fc.integer({ min: 1, max: 7 }),
  at: fc.tuple(fc.nat(23), fc.nat(59)).map((parts) => parts.map((part) => String(part).padStart(2, '0')).join(':')),
  zone
});
const moment = fc.integer({ min: 1_600_000_000_000, max: 1_900_000_000_000 }).map(instant);

describe('when a backup is due', () => {
  it('is next at the time that clocks show, on the right day', () => {
    fc.assert(
      fc.property(when, moment, (plan, now) => {
        const [hour, minute] = plan.at.split(':').map(Number);
        const next = nextBackup(plan, now);
        // The first later minute that shows the time, or the first behind it on a day that skips it.
        const shown = (at: number) => DateTime.fromMillis(at, { zone: plan.zone });
        const due = shown(next);
        expect(plan.every === 'day' || due.weekday === plan.weekday).to.equal(true);
        const minutes = due.hour * 60 + due.minute;
        const wanted = (hour ?? 0) * 60 + (minute ?? 0);
        const before = shown(next - 1);
        expect(minutes === wanted || (minutes > wanted && before.hour * 60 + before.minute < wanted)).to.equal(true);
      }),
      { numRuns: 150 }
    );
  });

  it('was last at an instant from which the next is later than now', () => {
    fc.assert(
      fc.property(when, moment, (plan, now) => {
        const last = lastDue(plan, now);
        expect(last).to.be.at.most(now);
        expect(nextBackup(plan, last)).to.be.greaterThan(now);
        expect(nextBackup(plan, (last - 1) as Instant)).to.equal(last);
      }),
      { numRuns: 300 }
    );
  });

  it('is right on days whose clocks change', () => {
    const plan = { every: 'day', weekday: 1, at: '02:30', zone: 'Europe/Rome' } as const;
    const at = (text: string): Instant => instant(Date.parse(text));
    expect(nextBackup(plan, at('2026-03-28T12:00:00Z'))).to.equal(at('2026-03-29T01:00:00Z'));
    expect(nextBackup(plan, at('2026-03-29T01:00:00Z'))).to.equal(at('2026-03-30T00:30:00Z'));
    // It comes twice in October: the first counts, and one alone.
    expect(nextBackup(plan, at('2026-10-24T12:00:00Z'))).to.equal(at('2026-10-25T00:30:00Z'));
    expect(nextBackup(plan, at('2026-10-25T00:30:00Z'))).to.equal(at('2026-10-26T01:30:00Z'));
    expect(backupPlanWords({ ...plan, every: 'week', weekday: 7 })).to.equal('each Sunday at 02:30 (Europe/Rome)');
  });
});
