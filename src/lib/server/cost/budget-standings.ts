import {
  dayAt,
  periodAt,
  type Budget,
  type BudgetStanding,
  type CostQuery,
  type DatedRate,
  type DayNumber,
  type PeriodSpan
} from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allRates, costSettings } from './cost-settings';
import { billStandings, wholeUntil } from './cost-view';
import type { CostClient } from './open-costs';

/** Days before a period that its forecast goes by. */
const pastDays = 42;

interface Given {
  readonly currency: string;
  readonly rates: readonly DatedRate[];
}

/**
 * How some budgets stand in the period that is on; null for one without bills, or in another currency than costs are shown in.
 *
 * @param now decides which period is on: that of the newest day that is billed, or of today
 */
export async function budgetStandings(
  { db, costs }: { readonly db: Queryable; readonly costs: CostClient },
  budgets: readonly Budget[],
  now: Instant
): Promise<(BudgetStanding | null)[]> {
  const [{ currency }, rates, bills] = await Promise.all([costSettings(db), allRates(db), billStandings(db)]);
  if (!bills.some(({ newest }) => newest !== null)) return budgets.map(() => null);
  const today = dayAt(now);
  const billedUntil = wholeUntil(bills, today);
  const standings: (BudgetStanding | null)[] = [];
  for (const budget of budgets) {
    const period = periodAt(budget.period, today);
    // On its first day nothing of a period is billed: what it is expected to cost is known all the same.
    standings.push(
      budget.currency === currency ? await standingIn(costs, budget, period, billedUntil, { currency, rates }) : null
    );
  }
  return standings;
}

async function standingIn(
  costs: CostClient,
  { basis, filters }: Pick<Budget, 'basis' | 'filters'>,
  period: PeriodSpan,
  billedUntil: DayNumber,
  given: Given
): Promise<BudgetStanding> {
  const until = Math.max(period.from, Math.min(period.to, billedUntil)) as DayNumber;
  const question: Omit<CostQuery, 'by' | 'most'> = { ...period, basis, filters };
  const past = (Math.min(period.from, billedUntil) - pastDays) as DayNumber;
  const [report] = await costs.book((book) =>
    book.reports([{ ...question, to: until, by: 'account', most: 0 }], given)
  );
  const forecast = await costs.book((book) =>
    book.forecast({ ...question, past, now: Math.min(period.to, billedUntil) as DayNumber }, given)
  );
  return { period, until, spent: (report?.total ?? 0) / 1_000_000, expected: forecast?.expected ?? null };
}

/** What past periods of a budget cost, newest first. */
export interface PastPeriod extends PeriodSpan {
  readonly spent: number;
  /** The first day on which what was billed passed the amount; null where it never did. */
  readonly passedOn: DayNumber | null;
}

/** Periods that are looked at. */
const mostPeriods = 6;

/**
 * What a budget would have been worth so far, and how it would stand now.
 *
 * @throws Refusal `invalid` for one in another currency
 */
export async function tryBudget(
  { db, costs }: { readonly db: Queryable; readonly costs: CostClient },
  budget: Budget,
  now: Instant
): Promise<{ readonly standing: BudgetStanding | null; readonly past: readonly PastPeriod[] }> {
  const [{ currency }, rates, bills] = await Promise.all([costSettings(db), allRates(db), billStandings(db)]);
  if (budget.currency !== currency)
    throw new Refusal('invalid', `Costs are shown in ${currency}.`, `Give the amount in ${currency}.`, {
      path: ['currency']
    });
  const [standing = null] = await budgetStandings({ db, costs }, [budget], now);
  const oldest = bills.reduce((least, one) => Math.min(least, one.oldest ?? Infinity), Infinity);
  const spans: PeriodSpan[] = [];
  for (let span = periodAt(budget.period, dayAt(now)); spans.length < mostPeriods;) {
    span = periodAt(budget.period, (span.from - 1) as DayNumber);
    if (span.from < oldest) break;
    spans.push(span);
  }
  if (spans.length === 0) return { standing, past: [] };
  const { basis, filters } = budget;
  const reports = await costs.book((book) =>
    book.reports(
      spans.map((span) => ({ ...span, basis, filters, by: 'account' as const, most: 0 })),
      { currency, rates }
    )
  );
  return {
    standing,
    past: spans.map((span, index) => {
      const report = reports[index];
      return {
        ...span,
        spent: (report?.total ?? 0) / 1_000_000,
        passedOn: passedOn(report?.days ?? new Float64Array(0), budget.amount, span.from)
      };
    })
  };
}

function passedOn(days: Float64Array, amount: number, from: DayNumber): DayNumber | null {
  let sum = 0;
  for (let index = 0; index < days.length; index++) {
    const cost = days[index] as number;
    if (!Number.isNaN(cost)) sum += cost / 1_000_000;
    if (sum > amount) return (from + index) as DayNumber;
  }
  return null;
}
