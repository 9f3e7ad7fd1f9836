// cost_settings, cost_rates
import { dateOf, dayOf, Rates, type DatedRate, type DayNumber } from '$lib/core/cost';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** In which currency costs are shown until somebody says otherwise. */
const usualCurrency = 'EUR';

export interface CostSettings {
  readonly currency: string;
  readonly version: number;
  /** Null while nobody has set it. */
  readonly changedBy: string | null;
}

export async function costSettings(db: Queryable): Promise<CostSettings> {
  const [row] = await db.rows<CostSettings>('select currency, version, changed_by as "changedBy" from cost_settings');
  return row ?? { currency: usualCurrency, version: 0, changedBy: null };
}

interface Author {
  readonly at: Instant;
  readonly by: string;
}

export async function saveCurrency(db: Queryable, currency: string, { at, by }: Author): Promise<void> {
  await db.rows(
    `insert into cost_settings (currency, changed_at, changed_by) values ($1, $2, $3)
     on conflict (only_one) do update
     set currency = excluded.currency, changed_at = excluded.changed_at, changed_by = excluded.changed_by, version = cost_settings.version + 1`,
    [currency, at, by]
  );
}

export interface StoredRate extends DatedRate {
  readonly setBy: string;
}

/** All rates, newest day of each currency first. */
export async function allRates(db: Queryable): Promise<StoredRate[]> {
  const rows = await db.rows<{ currency: string; day: DayNumber; rate: number; setBy: string }>(
    'select currency, from_day as day, rate, set_by as "setBy" from cost_rates order by currency, from_day desc'
  );
  return rows.map(({ currency, day, rate, setBy }) => ({ currency, from: dateOf(day), rate, setBy }));
}

/** Sets the rate that holds from a day on, in place of one of the same day. */
export async function saveRate(db: Queryable, { currency, from, rate }: DatedRate, { at, by }: Author): Promise<void> {
  await db.rows(
    `insert into cost_rates (currency, from_day, rate, set_at, set_by) values ($1, $2, $3, $4, $5)
     on conflict (currency, from_day) do update set rate = excluded.rate, set_at = excluded.set_at, set_by = excluded.set_by`,
    [currency, dayOf(from), rate, at, by]
  );
}

/** @returns whether there was one */
export async function deleteRate(db: Queryable, currency: string, from: string): Promise<boolean> {
  const rows = await db.rows('delete from cost_rates where currency = $1 and from_day = $2 returning 1', [
    currency,
    dayOf(from)
  ]);
  return rows.length > 0;
}

/** What is needed to turn amounts into one's own currency. */
export async function ratesOf(db: Queryable): Promise<Rates> {
  const [{ currency }, rates] = await Promise.all([costSettings(db), allRates(db)]);
  return new Rates(currency, rates);
}
