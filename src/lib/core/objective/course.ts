import { cellAt, cellStart, gridEnd, minute, range, type Grid, type Instant, type Range } from '../time';
import { CountSums } from './count-sums';
import { burnRate, errorBudget, periodsLeft, type ErrorBudget } from './error-budget';
import { targetOf, type Objective, type ObjectiveLevel } from './objective';
import { periodBefore, periodOver } from './periods';

/** What was good and what there was in all, cell by cell, up to where both are complete. */
export interface Counted {
  readonly grid: Grid;
  readonly good: Float64Array;
  readonly all: Float64Array;
}

/** How fast the budget is used in a span. */
export interface SpanRate {
  readonly minutes: number;
  /** Null where there was nothing. */
  readonly rate: number | null;
}

/** How a promise stands. */
export interface ObjectiveStanding extends ErrorBudget {
  readonly period: Range;
  /** Up to where it is counted. */
  readonly until: Instant;
  /** Every span of its levels, and a tenth of its period. */
  readonly rates: readonly SpanRate[];
  readonly pace: number | null;
  /** When the budget is spent if it goes on being used as in the last tenth of the period; null where it is not used, or is spent. */
  readonly spentAt: Instant | null;
  /** Since when it is spent; null while it is not. */
  readonly spentSince: Instant | null;
}

/** How a period that is over was kept. */
export interface PastObjectivePeriod extends ErrorBudget {
  readonly period: Range;
}

/** A stretch in which more was bad than there was room for. */
export interface Used extends Range {
  readonly bad: number;
  /** Share of the budget of its period. */
  readonly share: number;
}

/** A promise on what was counted: how it stands at any cell. */
export class ObjectiveCourse {
  readonly #objective: Pick<Objective, 'targetPercent' | 'period' | 'levels'>;
  readonly #grid: Grid;
  readonly #sums: CountSums;
  readonly #target: number;

  /** @param isLeftOut whether the cell that begins at an instant is left out, such as of planned maintenance */
  constructor(
    objective: Pick<Objective, 'targetPercent' | 'period' | 'levels'>,
    { grid, good, all }: Counted,
    isLeftOut: (start: Instant) => boolean = () => false
  ) {
    this.#objective = objective;
    this.#grid = grid;
    this.#sums = new CountSums(good, all, (cell) => isLeftOut(cellStart(grid, cell)));
    this.#target = targetOf(objective);
  }

  /** The end of the last cell. */
  get until(): Instant {
    return gridEnd(this.#grid);
  }

  /** What is in a span. */
  over(span: Range): ErrorBudget {
    return errorBudget(this.#sums.between(...this.#cells(span)), this.#target);
  }

  /** How fast the budget is used in each of some spans that end with a cell. */
  rateAt(end: number, minutes: number): number | null {
    return burnRate(this.#sums.between(end - Math.round((minutes * minute) / this.#grid.step), end), this.#target);
  }

  /** How it stands at the end of the last cell. */
  standing(): ObjectiveStanding {
    const { until } = this;
    const { period: kind, levels } = this.#objective;
    const period = periodOver(kind, until);
    const length = period.to - period.from;
    const lately = Math.max(5, Math.round(length / 10 / minute / 5) * 5);
    const spans = new Set(levels.flatMap(({ longMinutes, shortMinutes }) => [longMinutes, shortMinutes]));
    const end = this.#grid.count;
    const rates = [...spans.add(lately)]
      .sort((a, b) => a - b)
      .map((minutes) => ({ minutes, rate: this.rateAt(end, minutes) }));
    const budget = this.over({ from: period.from, to: until });
    const rate = rates.find(({ minutes }) => minutes === lately)?.rate ?? null;
    const left = budget.left === null || rate === null || budget.left <= 0 ? null : periodsLeft(budget.left, rate);
    return {
      ...budget,
      ...{ period, until, rates, pace: paceOf(levels, (minutes) => this.rateAt(end, minutes)) },
      spentAt: left === null ? null : ((until + left * length) as Instant),
      spentSince: budget.left !== null && budget.left <= 0 ? this.#spentSince(period) : null
    };
  }

  /** Periods that are over, newest first; of a moving one, those that followed each other up to now. */
  past(most: number): PastObjectivePeriod[] {
    const found: PastObjectivePeriod[] = [];
    let period = periodOver(this.#objective.period, this.until);
    while (found.length < most) {
      period = periodBefore(this.#objective.period, period);
      // What is counted in part only says nothing of the whole.
      if (period.from < this.#grid.start) break;
      found.push({ period, ...this.over(period) });
    }
    return found;
  }

  /**
   * How it stood at the end of each cell of a span: the share of the budget that was left, the share that was good, and the pace; NaN where there was nothing.
   *
   * @returns columns of equal length, the first for the cell that the span begins in
   */
  courseOver(span: Range): { grid: Grid; left: Float64Array; share: Float64Array; pace: Float64Array } {
    const [first, last] = this.#cells(span);
    const count = Math.max(0, last - first);
    const [left, share, pace] = [0, 1, 2].map(() => new Float64Array(count).fill(NaN)) as [
      Float64Array,
      Float64Array,
      Float64Array
    ];
    let period: Range | null = null;
    for (let index = 0; index < count; index++) {
      const cell = first + index;
      const start = cellStart(this.#grid, cell);
      const end = (start + this.#grid.step) as Instant;
      if (this.#objective.period.kind === 'rolling') period = periodOver(this.#objective.period, end);
      else if (period === null || start >= period.to) period = periodOver(this.#objective.period, start);
      const budget = this.over({ from: period.from, to: end });
      left[index] = budget.left ?? NaN;
      share[index] = budget.share ?? NaN;
      pace[index] = paceOf(this.#objective.levels, (minutes) => this.rateAt(cell + 1, minutes)) ?? NaN;
    }
    return { grid: { ...this.#grid, start: cellStart(this.#grid, first), count }, left, share, pace };
  }

  /** The stretches in which most of the budget went, largest first: cells that were worse than the target, with less than an hour between them. */
  used(span: Range, most: number): Used[] {
    const { allowed } = this.over(span);
    const [first, last] = this.#cells(span);
    const apart = Math.round((60 * minute) / this.#grid.step);
    const found: { from: number; to: number; bad: number }[] = [];
    for (let cell = first; cell < last; cell++) {
      const counts = this.#sums.between(cell, cell + 1);
      if ((burnRate(counts, this.#target) ?? 0) <= 1) continue;
      const known = found.at(-1);
      if (known !== undefined && cell - known.to < apart)
        Object.assign(known, { to: cell + 1, bad: known.bad + counts.bad });
      else found.push({ from: cell, to: cell + 1, bad: counts.bad });
    }
    return found
      .sort((a, b) => b.bad - a.bad)
      .slice(0, most)
      .map(({ from, to, bad }) => ({
        ...range(cellStart(this.#grid, from), cellStart(this.#grid, to)),
        ...{ bad, share: allowed === 0 ? 0 : bad / allowed }
      }));
  }

  /** The first instant of a period from which on nothing was left of its budget, as far as that can be seen in it. */
  #spentSince({ from }: Range): Instant | null {
    const [first] = this.#cells({ from, to: this.until });
    for (let cell = this.#grid.count; cell > first; cell--) {
      const end = cellStart(this.#grid, cell);
      const of = this.#objective.period.kind === 'rolling' ? periodOver(this.#objective.period, end).from : from;
      const { left } = this.over({ from: of, to: end });
      if (left === null || left > 0) return end;
    }
    return cellStart(this.#grid, first);
  }

  /** The cells of a span; one that is in it in part belongs to it when it begins in it. */
  #cells({ from, to }: Range): [number, number] {
    const ceil = (at: number) => {
      const cell = cellAt(this.#grid, at);
      return cellStart(this.#grid, cell) < at ? cell + 1 : cell;
    };
    return [Math.max(0, ceil(from)), Math.min(this.#grid.count, ceil(to))];
  }
}

/**
 * How fast the budget is used, by what an alarm with the levels as its limits is raised just as they say: a level is reached when both of its spans are above its rate. It is the slower of the two
 * spans of the gravest level that is reached, but never above the rate of a level that is not.
 *
 * @param rateOf how fast the budget is used in the minutes up to now; null where there was nothing
 * @returns null without levels, or where there was nothing in either span of any
 * @example paceOf([{ severity: 'critical', rate: 14.4, longMinutes: 60, shortMinutes: 5 }], (minutes) => (minutes === 5 ? 20 : 15)) // 15
 */
export function paceOf(levels: readonly ObjectiveLevel[], rateOf: (minutes: number) => number | null): number | null {
  let pace: number | null = null;
  let ceiling = Infinity;
  for (const { rate, longMinutes, shortMinutes } of levels.toReversed()) {
    const [long, short] = [rateOf(longMinutes), rateOf(shortMinutes)];
    if (long !== null && short !== null) {
      const both = Math.min(long, short);
      if (both > rate) return Math.min(both, ceiling);
      pace = Math.max(pace ?? 0, Math.min(both, rate));
    }
    ceiling = rate;
  }
  // None is reached: whatever is told stays below the mildest.
  return pace === null ? null : Math.min(pace, levels[0]?.rate ?? pace);
}
