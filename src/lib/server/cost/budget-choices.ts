import { dayAt, type CostDimension, type DayNumber } from '$lib/core/cost';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allRates, costSettings } from './cost-settings';
import type { CostClient } from './open-costs';

/** Days whose bills choices are made from, and choices of a dimension at most. */
const [days, most] = [62, 500];
const dimensions: readonly CostDimension[] = ['service', 'account', 'region', 'resource', 'usage'];

/** What costs can be narrowed to, by what was billed lately: the most expensive first. */
export async function budgetChoices(
  { db, costs }: { readonly db: Queryable; readonly costs: CostClient },
  now: Instant
) {
  const [{ currency }, rates] = await Promise.all([costSettings(db), allRates(db)]);
  const to = dayAt(now);
  const from = (to - days) as DayNumber;
  const { labels } = await costs.book((book) => book.facets(from, to, []));
  const all: readonly CostDimension[] = [...dimensions, ...labels.map((key) => `label:${key}` as const)];
  const reports = await costs.book((book) =>
    book.reports(
      all.map((by) => ({ from, to, by, basis: 'amortised' as const, filters: [], most })),
      { currency, rates }
    )
  );
  return all.map((by, index) => ({
    by,
    values: (reports[index]?.groups ?? []).map(({ value, title }) => ({ value, title }))
  }));
}
