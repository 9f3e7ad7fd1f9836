import { expect } from 'chai';
import { chanceOf } from '../../../../tests/support/chance';
import { objectiveSchema, objectiveStep, type Objective } from '../../core/objective';
import { Refusal } from '../../core/problem/problem';
import { plainSignal } from '../../core/signal';
import { after, before as earlier, cellStart, day, hour, instant, times, type Instant } from '../../core/time';
import { objectivesAt } from './objective-view';
import type { CountedOf } from './objective-counts';
import type { StoredObjective } from './objectives';

const signal = (metric: string) => plainSignal({ metric, statistic: 'sum', step: 'PT5M' });
const promise = (name: string, period: object): Objective =>
  objectiveSchema.parse({
    ...{ name, targetPercent: 99, period, levels: [], route: null, leaveOutMaintenance: false },
    of: { kind: 'share', good: signal(`${name}.good`), all: signal(`${name}.all`) }
  });
const stored = (value: Objective, id: number): StoredObjective => ({
  ...{ id, value, version: 1, changedAt: instant(0), changedBy: 'test', alarmId: null }
});

describe('how promises stood at a moment', () => {
  const begin = instant(Date.UTC(2026, 2, 1));
  const now = after(begin, times(90, day));
  const cells = (90 * day) / objectiveStep;
  const { unit } = chanceOf(31);
  const all = Float64Array.from({ length: cells }, () => (unit() < 0.05 ? NaN : Math.floor(unit() * 100)));
  const good = all.map((count) =>
    Number.isNaN(count) ? NaN : count - (unit() < 0.1 ? Math.floor(unit() * count) : 0)
  );

  const reader = {
    clock: { now: () => now },
    objectives: {
      counted: (of: Objective['of'], from: Instant): Promise<CountedOf> => {
        if (of.kind === 'share' && JSON.stringify(of).includes('lost'))
          return Promise.reject(new Refusal('not-found', 'There is no metric named lost.all.', 'Look for it.'));
        const first = Math.max(0, Math.floor((from - begin) / objectiveStep));
        return Promise.resolve({
          grid: { start: instant(begin + first * objectiveStep), step: objectiveStep, count: cells - first },
          ...{ good: good.subarray(first), all: all.subarray(first), sources: [] }
        });
      }
    }
  } as unknown as Parameters<typeof objectivesAt>[0];

  /** What was good from one moment to another, cell by cell. */
  function slowly(from: Instant, to: Instant): { share: number | null; left: number | null } {
    let [there, bad] = [0, 0];
    for (let cell = 0; cell < cells; cell++) {
      const at = cellStart({ start: begin, step: objectiveStep, count: cells }, cell);
      const [count, fine] = [all[cell] as number, good[cell] as number];
      if (at < from || at >= to || Number.isNaN(count) || count === 0) continue;
      there += count;
      bad += count - fine;
    }
    return there === 0 ? { share: null, left: null } : { share: 1 - bad / there, left: 1 - bad / (there * 0.01) };
  }
  const close = (found: number | null | undefined, expected: number | null, what: string) => {
    if (expected === null) expect(found, what).to.equal(null);
    else expect(found, what).to.be.closeTo(expected, 1e-9);
  };

  it('is what was good in the days up to it, or in its month so far, as counting cell by cell says', async () => {
    const promises = [
      stored(promise('days', { kind: 'rolling', days: 7 }), 1),
      stored(promise('month', { kind: 'calendar', unit: 'month', zone: 'UTC' }), 2)
    ];
    for (const days of [8, 20, 31, 45.5, 61, 89]) {
      const at = after(begin, times(days, day));
      const [rolling, calendar] = await objectivesAt(reader, promises, at);
      const week = slowly(earlier(at, times(7, day)), at);
      close(rolling?.share, week.share, `share after ${days} days`);
      close(rolling?.left, week.left, `left after ${days} days`);
      // At the very end of a month it is that month, not the next one that has just begun.
      const month = new Date(at - 1);
      const soFar = slowly(instant(Date.UTC(month.getUTCFullYear(), month.getUTCMonth(), 1)), at);
      close(calendar?.share, soFar.share, `month's share after ${days} days`);
      close(calendar?.left, soFar.left, `month's left after ${days} days`);
    }
  });

  it('is what is counted last, for a moment that is not counted yet', async () => {
    const [found] = await objectivesAt(
      reader,
      [stored(promise('days', { kind: 'rolling', days: 7 }), 1)],
      after(now, times(2, hour))
    );
    close(found?.share, slowly(earlier(now, times(7, day)), now).share, 'up to now');
  });

  it('is unknown before anything was counted, and where it cannot be counted, each for itself', async () => {
    const promises = [
      stored(promise('lost', { kind: 'rolling', days: 7 }), 1),
      stored(promise('days', { kind: 'rolling', days: 7 }), 2)
    ];
    const at = after(begin, times(20, day));
    const [lost, found] = await objectivesAt(reader, promises, at);
    expect(lost).to.deep.include({ share: null, left: null });
    expect(lost?.problem?.message).to.equal('There is no metric named lost.all.');
    expect([found?.problem, typeof found?.share]).to.deep.equal([null, 'number']);
    const [early] = await objectivesAt(reader, promises.slice(1), begin);
    expect(early).to.deep.equal({ share: null, left: null, problem: null });
  });
});
