import { expect } from 'chai';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { _adapters } from 'chart.js';
import { addedAlike } from './added-alike';
import './registered';

describe('instants along an axis', () => {
  const spring = Date.parse('2026-03-29T00:30:00Z'); // half an hour before clocks are put forward
  const units = ['millisecond', 'second', 'minute', 'hour'] as const;
  const zones = ['UTC', 'Europe/Madrid', 'Asia/Kolkata', 'America/St_Johns', 'Australia/Lord_Howe'];

  it('are where a calendar puts them, in any zone, on the days when clocks are changed too', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...units),
        fc.constantFrom(...zones),
        fc.integer({ min: -500_000, max: 500_000 }),
        fc.integer({ min: -200 * 86_400_000, max: 200 * 86_400_000 }),
        (unit, zone, amount, off) => {
          const at = spring + off;
          const slow = DateTime.fromMillis(at, { zone })
            .plus({ [unit]: amount })
            .toMillis();
          expect(addedAlike(at, amount, unit)).to.equal(slow);
        }
      )
    );
  });

  it('are so in the application’s charts: hours are added alike, days by the calendar of the zone', () => {
    const axis = new _adapters._date({ zone: 'Europe/Madrid' });
    axis.init({});
    expect(axis.add(spring, 3, 'hour')).to.equal(spring + 3 * 3_600_000);
    expect(axis.add(spring, 1, 'day')).to.equal(spring + 23 * 3_600_000);
  });

  it('are left to the calendar for units that are not always as long', () => {
    for (const unit of ['day', 'week', 'month', 'quarter', 'year', 'toString'])
      expect(addedAlike(spring, 1, unit), unit).to.equal(null);
  });
});
