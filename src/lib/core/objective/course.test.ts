import { expect } from 'chai';
import fc from 'fast-check';
import { severities } from '../alarm';
import { cellStart, dateAt, day, hour, instant, minute, range, times, type Instant } from '../time';
import {
  ObjectiveCourse,
  objectiveSchema,
  objectiveStep,
  paceOf,
  periodBefore,
  periodOver,
  proposedLevels,
  type ObjectiveLevel,
  type ObjectivePeriod
} from './index';

const zone = 'Europe/Rome';
/** The last Sunday of March 2026, on which clocks go forward. */
const changed = Date.UTC(2026, 2, 29);
const periods: readonly ObjectivePeriod[] = [
  { kind: 'rolling', days: 1 },
  { kind: 'rolling', days: 3 },
  { kind: 'calendar', unit: 'month', zone },
  { kind: 'calendar', unit: 'quarter', zone: 'America/New_York' }
];
const levels: readonly ObjectiveLevel[] = [
  { severity: 'minor', rate: 1, longMinutes: 120, shortMinutes: 10 },
  { severity: 'critical', rate: 6, longMinutes: 60, shortMinutes: 5 }
];
const aCell = fc.record({
  all: fc.oneof({ weight: 5, arbitrary: fc.integer({ min: 1, max: 100 }) }, fc.constant(NaN), fc.constant(0)),
  bad: fc.oneof({ weight: 3, arbitrary: fc.constant(0) }, fc.integer({ min: 0, max: 30 })),
  isLeftOut: fc.oneof({ weight: 9, arbitrary: fc.constant(false) }, fc.constant(true))
});
const given = fc.record({
  cells: fc.array(aCell, { minLength: 1, maxLength: 120 }),
  /** Hours before or after clocks change that the first cell begins. */
  offset: fc.integer({ min: -60, max: 60 }),
  period: fc.constantFrom(...periods),
  targetPercent: fc.constantFrom(90, 99, 99.9)
});
type Given = typeof given extends fc.Arbitrary<infer T> ? T : never;

/** Everything by looking at each cell anew. */
function slow({ cells, offset, period, targetPercent }: Given) {
  // Cells of an hour, so that few of them reach over days.
  const grid = { start: instant(changed + offset * hour), step: hour, count: cells.length };
  const share = 1 - targetPercent / 100;
  const over = (from: number, to: number) => {
    let [all, bad] = [0, 0];
    for (const [index, cell] of cells.entries()) {
      const start = cellStart(grid, index);
      if (start < from || start >= to || cell.isLeftOut || !(cell.all > 0)) continue;
      all += cell.all;
      bad += Math.min(cell.all, cell.bad);
    }
    return { all, bad, left: all === 0 ? null : 1 - bad / (all * share), rate: all === 0 ? null : bad / all / share };
  };
  const course = new ObjectiveCourse(
    { targetPercent, period, levels: [...levels] },
    {
      grid,
      good: Float64Array.from(cells, ({ all, bad }) => all - Math.min(all, bad)),
      all: Float64Array.from(cells, ({ all }) => all)
    },
    (start) => cells[(start - grid.start) / hour]?.isLeftOut === true
  );
  return { grid, over, course };
}
const same = (one: number | null, other: number | null | undefined) => {
  if (one === null || other === null || other === undefined || Number.isNaN(other))
    expect(one === null || Number.isNaN(one)).to.equal(other === null || Number.isNaN(other));
  else expect(one).to.be.closeTo(other, 1e-6);
};

describe('a promise over time', () => {
  it('stands, in each period and at each cell, as a slow reference says: with gaps, maintenance and changed clocks', () => {
    fc.assert(
      fc.property(given, (of) => {
        const { grid, over, course } = slow(of);
        const { period } = of;
        const standing = course.standing();
        const now = standing.until;
        same(standing.left, over(standing.period.from, now).left);
        for (const { minutes, rate } of standing.rates)
          if (minutes % 60 === 0) same(rate, over(now - minutes * minute, now).rate);
        for (const { period: past, left } of course.past(4)) same(left, over(past.from, past.to).left);
        const all = course.courseOver(range(grid.start, now));
        expect(all.grid).to.deep.equal(grid);
        for (const [index, left] of all.left.entries()) {
          const end = cellStart(grid, index + 1);
          const { from } = periodOver(period, period.kind === 'rolling' ? end : cellStart(grid, index));
          same(Number.isNaN(left) ? null : left, over(from, end).left);
        }
      }),
      { numRuns: 200 }
    );
  });

  it('is spent since the cell after which nothing was left, and names the stretches in which it went', () => {
    fc.assert(
      fc.property(given, (of) => {
        const { grid, over, course } = slow(of);
        const { spentSince, left, until } = course.standing();
        expect(spentSince === null).to.equal(left === null || left > 0);
        if (spentSince !== null)
          for (let end = spentSince + hour; end <= until; end += hour) {
            const { from } = periodOver(of.period, of.period.kind === 'rolling' ? (end as Instant) : until);
            expect(over(from, end).left ?? 1).to.be.at.most(1e-9);
          }
        const whole = range(grid.start, until);
        const used = course.used(whole, 100);
        const share = 1 - of.targetPercent / 100;
        const worse = of.cells
          .filter(({ all, bad, isLeftOut }) => all > 0 && !isLeftOut && Math.min(all, bad) / all / share > 1)
          .reduce((sum, { all, bad }) => sum + Math.min(all, bad), 0);
        same(
          used.reduce((sum, { bad }) => sum + bad, 0),
          worse
        );
        expect(used.map(({ bad }) => bad)).to.deep.equal(used.map(({ bad }) => bad).sort((a, b) => b - a));
      }),
      { numRuns: 200 }
    );
  });

  it('is over months by the clocks of its zone: that of changed clocks has an hour less', () => {
    const month = periodOver({ kind: 'calendar', unit: 'month', zone }, instant(changed));
    expect(month.to - month.from).to.equal(31 * day - hour);
    expect(dateAt(month.from, zone)).to.equal('2026-03-01');
    const before = periodBefore({ kind: 'calendar', unit: 'month', zone }, month);
    expect([before.to, before.to - before.from]).to.deep.equal([month.from, 28 * day]);
    const quarter = periodOver({ kind: 'calendar', unit: 'quarter', zone: 'UTC' }, instant(changed));
    expect(quarter).to.deep.equal(range(instant(Date.UTC(2026, 0, 1)), instant(Date.UTC(2026, 3, 1))));
    expect(periodBefore({ kind: 'calendar', unit: 'quarter', zone: 'UTC' }, quarter).from).to.equal(
      Date.UTC(2025, 9, 1)
    );
  });
});

describe('the pace of a promise', () => {
  const aRate = fc.option(fc.double({ min: 0, max: 30, noNaN: true }), { freq: 8 });
  const someLevels = fc
    .uniqueArray(
      fc.record({ rate: fc.double({ min: 0.1, max: 20, noNaN: true }), long: fc.integer({ min: 1, max: 9 }) }),
      {
        maxLength: 4,
        selector: ({ rate }) => rate
      }
    )
    .map((all) =>
      all
        .sort((a, b) => a.rate - b.rate)
        .map(({ rate, long }, index): ObjectiveLevel => ({
          ...{ severity: severities[index] as ObjectiveLevel['severity'], rate },
          ...{ longMinutes: 60 * long + index, shortMinutes: 5 + index }
        }))
    );

  it('is above the rates of just those levels that are reached, whatever the spans say: an alarm with them as limits is raised as they define it', () => {
    fc.assert(
      fc.property(someLevels, fc.array(aRate, { minLength: 8, maxLength: 8 }), (some, rates) => {
        const rateOf = (minutes: number) =>
          rates[minutes < 60 ? minutes - 5 : 4 + some.findIndex((one) => one.longMinutes === minutes)] ?? null;
        const pace = paceOf(some, rateOf);
        const reached = some.findLastIndex(({ rate, longMinutes, shortMinutes }) => {
          const [long, short] = [rateOf(longMinutes), rateOf(shortMinutes)];
          return long !== null && short !== null && long > rate && short > rate;
        });
        const raised = some.findLastIndex(({ rate }) => (pace ?? -1) > rate);
        expect(raised).to.equal(reached);
      })
    );
    expect(paceOf([], () => 3)).to.equal(null);
  });

  it('has levels proposed by target and period, the mildest first, that a promise takes', () => {
    const signal = {
      ...{ version: 2, step: 'PT5M' },
      rows: [{ name: 'a', metric: 'served', statistic: 'sum' }]
    };
    for (const targetPercent of [50, 90, 99, 99.99])
      for (const period of [...periods, { kind: 'rolling', days: 30 } as const]) {
        const objective = objectiveSchema.parse({
          ...{ name: 'x', targetPercent, period, of: { kind: 'share', good: signal, all: signal } },
          levels: proposedLevels({ targetPercent, period })
        });
        for (const { rate } of objective.levels) expect(rate).to.be.below(1 / (1 - targetPercent / 100));
      }
    expect(proposedLevels({ targetPercent: 99.9, period: { kind: 'rolling', days: 30 } })).to.deep.equal([
      { severity: 'minor', rate: 1, longMinutes: 4320, shortMinutes: 360 },
      { severity: 'major', rate: 6, longMinutes: 360, shortMinutes: 30 },
      { severity: 'critical', rate: 14.4, longMinutes: 60, shortMinutes: 5 }
    ]);
    expect(objectiveStep).to.equal(times(5, minute));
  });
});
