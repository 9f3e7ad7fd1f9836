import { expect } from 'chai';
import fc from 'fast-check';
import { instant, type Instant } from '../time';
import { dueBy, type Reports } from './silence';

const [minute, hour] = [60_000, 3_600_000];
const at = (hours: number, minutes = 0): Instant => instant(1_777_852_800_000 + hours * hour + minutes * minute);
const minutely = (newest: Instant | null): Reports => ({
  newest,
  samplingMs: minute,
  delayMs: 2 * minute,
  everyMs: minute
});
const hourlyAndLate = (newest: Instant): Reports => ({
  newest,
  samplingMs: hour,
  delayMs: 6 * hour,
  everyMs: 15 * minute
});

describe('when a resource should have reported', () => {
  it('is measured against its own interval and delay: hourly and six hours late is not silent', () => {
    expect(dueBy([hourlyAndLate(at(8))])).to.equal(at(15, 15));
    expect(dueBy([minutely(at(14))])).to.equal(at(14, 4));
  });

  it('is decided by its promptest series: a slow one does not hide that they have stopped', () => {
    expect(dueBy([minutely(at(14)), minutely(at(13)), hourlyAndLate(at(13))])).to.equal(at(14, 4));
  });

  it('counts as reporting while one of the promptest reports', () => {
    expect(dueBy([minutely(at(9)), minutely(at(14))])).to.equal(at(14, 4));
  });

  it('is never where nothing ever arrived; what never arrived decides nothing', () => {
    expect(dueBy([])).to.equal(null);
    expect(dueBy([minutely(null)])).to.equal(null);
    expect(dueBy([minutely(null), hourlyAndLate(at(8))])).to.equal(at(15, 15));
  });

  it('never lies before its newest sample of a prompt series, and does not depend on order', () => {
    const reports = fc.record({
      newest: fc.option(fc.integer({ min: 0, max: 1e12 }), { nil: null }),
      samplingMs: fc.integer({ min: 1, max: 1e8 }),
      delayMs: fc.integer({ min: 0, max: 1e8 }),
      everyMs: fc.integer({ min: 0, max: 1e7 })
    }) as fc.Arbitrary<Reports>;
    fc.assert(
      fc.property(fc.array(reports, { maxLength: 12 }), (series) => {
        const due = dueBy(series);
        expect(dueBy(series.toReversed())).to.equal(due);
        const takes = (one: Reports) => one.samplingMs + one.delayMs + one.everyMs;
        if (due === null) expect(series.every(({ newest }) => newest === null)).to.equal(true);
        else expect(series.some((one) => one.newest !== null && one.newest + takes(one) === due)).to.equal(true);
      })
    );
  });
});
