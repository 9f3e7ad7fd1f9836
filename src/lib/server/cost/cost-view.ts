import {
  dayAt,
  monthAfter,
  monthAt,
  monthOf,
  startOfDay,
  type CostAsked,
  type CostBasis,
  type CostReport,
  type DayNumber,
  type Month,
  type MonthForecast
} from '$lib/core/cost';
import { range, type Clock, type Instant } from '$lib/core/time';
import type { Database, Queryable } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import { marksIn } from '../marks/marks';
import type { StoreClient } from '../store/open-store';
import { allBillReads, type RejectedRows } from './bill-reads';
import type { NamedChange } from './cost-book';
import { newestDays } from './cost-days';
import { allRates, costSettings } from './cost-settings';
import { idleResources, type IdleResource } from './idle-resources';
import type { CostClient } from './open-costs';

/** What looking at costs needs. */
export interface CostReader {
  readonly db: Database;
  readonly clock: Clock;
  readonly costs: CostClient;
  readonly store: Pick<StoreClient, 'samples'>;
}

/** How the bill of an account stands. */
export interface BillStanding {
  readonly accountId: number;
  readonly account: string;
  /** The newest day that is billed; null while none is. */
  readonly newest: DayNumber | null;
  readonly error: { readonly message: string; readonly remedy: string } | null;
  readonly rejected: RejectedRows | null;
}

/** A month of costs, and what was before it. */
export interface CostMonth {
  readonly month: Month;
  readonly currency: string;
  /** The first day of it that is not billed by all; all before it are whole. */
  readonly until: DayNumber;
  /** The same, of all months. */
  readonly billedUntil: DayNumber;
  readonly report: CostReport;
  /** The same days of the month before, by the same groups. */
  readonly earlier: CostReport;
  readonly forecast: MonthForecast | null;
  readonly bills: readonly BillStanding[];
  readonly labels: readonly string[];
  /** Names of the resources that filters keep, by what stands for them. */
  readonly names: Readonly<Record<string, string>>;
  /** The first month there is a bill of. */
  readonly oldest: Month | null;
}

/** So many days that an account's bill is behind the others', it does not hold them back. */
const mostBehind = 4;
/** Days before a month that its forecast goes by. */
const pastDays = 42;

/**
 * A month's costs: until now by a dimension, against the same days of the month before, and what is expected at its end.
 *
 * @throws Refusal where the thread cannot read them
 */
export async function costMonth({ db, clock, costs }: CostReader, asked: CostAsked): Promise<CostMonth> {
  const today = dayAt(clock.now());
  const month = asked.month === null ? monthAt(today) : monthOf(asked.month);
  const [{ currency }, rates, bills] = await Promise.all([costSettings(db), allRates(db), billStandings(db)]);
  const given = { currency, rates };
  const billedUntil = wholeUntil(bills, today);
  const until = Math.max(month.from, Math.min(month.to, billedUntil)) as DayNumber;
  const before = monthAfter(month, -1);
  const { by, basis, filters } = asked;
  const length = until - month.from;
  const earlierTo = Math.min(before.to, before.from + length) as DayNumber;
  const [reports, forecast, { labels, names }] = await Promise.all([
    costs.book((book) =>
      book.reports(
        [
          { from: month.from, to: until, by, basis, filters, most: 50 },
          { from: before.from, to: earlierTo, by, basis, filters, most: 100_000 }
        ],
        given
      )
    ),
    costs.book((book) =>
      book.forecast(
        { from: month.from, to: month.to, basis, filters, past: (month.from - pastDays) as DayNumber, now: until },
        given
      )
    ),
    costs.book((book) =>
      book.facets(
        month.from,
        until,
        filters.flatMap((filter) => (filter.by === 'resource' ? filter.values : []))
      )
    )
  ]);
  const [report, earlier] = reports as [CostReport, CostReport];
  const oldest = Math.min(...bills.map((one) => one.oldest ?? Infinity));
  return {
    ...{ month, currency, until, billedUntil, report, earlier, forecast, labels, names },
    bills: bills.map(({ oldest: _oldest, ...bill }) => bill),
    oldest: Number.isFinite(oldest) ? monthAt(oldest as DayNumber) : null
  };
}

/** The day up to which every account has its bill, but for such as are far behind. */
export function wholeUntil(bills: readonly BillStanding[], today: DayNumber): DayNumber {
  const newest = bills.flatMap((one) => (one.newest === null ? [] : [one.newest]));
  const last = newest.reduce((most, day) => Math.max(most, day), -Infinity);
  const whole = newest.filter((day) => day >= last - mostBehind).reduce((least, day) => Math.min(least, day), Infinity);
  return (Number.isFinite(whole) ? whole + 1 : today) as DayNumber;
}

/** How the bills of all accounts stand that have any. */
export async function billStandings(db: Queryable): Promise<(BillStanding & { readonly oldest: DayNumber | null })[]> {
  const [accounts, reads, days] = await Promise.all([allAccounts(db), allBillReads(db), newestDays(db)]);
  return accounts.flatMap(({ id, name }) => {
    const read = reads.find(({ accountId }) => accountId === id);
    const own = days.find(({ accountId }) => accountId === id);
    if (read === undefined && own === undefined) return [];
    return [
      {
        ...{ accountId: id, account: name, newest: own?.newest ?? null, oldest: own?.oldest ?? null },
        ...{ error: read?.lastError ?? null, rejected: read?.rejected ?? null }
      }
    ];
  });
}

/** What changed its level, with marks of the days around it. */
export interface ChangeSeen extends NamedChange {
  readonly marks: readonly { readonly text: string; readonly at: Instant }[];
}

/** A resource that does nothing, and what it cost in the last 30 days. */
export interface IdleSeen extends IdleResource {
  readonly cost: number;
}

export interface CostFindings {
  readonly changes: readonly ChangeSeen[];
  readonly items: number;
  readonly lookedAt: number;
  readonly idle: readonly IdleSeen[];
}

/** A change is worth being told from this share of what a day costs on. */
const leastShare = 0.002;
/** Days that changes are found in, items that are looked at, and changes that are listed, at most. */
const [changeDays, mostItems, mostChanges, idleDays] = [90, 2000, 20, 30];

/** What is worth knowing of costs by itself: what changed within a month, or 30 days where it has fewer, and what does nothing. */
export async function costFindings(
  { db, clock, costs, store }: CostReader,
  {
    month,
    until,
    billedUntil,
    basis
  }: Pick<CostMonth, 'month' | 'until' | 'billedUntil'> & { readonly basis: CostBasis }
): Promise<CostFindings> {
  // What changed at the end of a month is known by the days behind it.
  const to = Math.min(billedUntil, until + idleDays) as DayNumber;
  const [{ currency }, rates, idle] = await Promise.all([
    costSettings(db),
    allRates(db),
    idleResources({ db, store }, clock.now())
  ]);
  const given = { currency, rates };
  const [byResource] = await costs.book((book) =>
    book.reports(
      [{ from: (until - idleDays) as DayNumber, to: until, by: 'resource', basis, filters: [], most: 100_000 }],
      given
    )
  );
  const aDay = (byResource?.total ?? 0) / 1_000_000 / idleDays;
  const { changes, items, lookedAt } = await costs.book((book) =>
    book.changes(
      {
        ...{ from: (until - changeDays) as DayNumber, to, basis },
        since: Math.min(month.from, until - idleDays) as DayNumber,
        ...{ least: aDay * leastShare, most: mostItems }
      },
      given
    )
  );
  const costOf = new Map(byResource?.groups.map(({ value, total }) => [value, total / 1_000_000]));
  return {
    ...{ items, lookedAt },
    changes: await Promise.all(
      changes
        .filter(({ day }) => day < until)
        .slice(0, mostChanges)
        .map((change) => withMarks(db, change))
    ),
    idle: idle
      .map((one) => ({ ...one, cost: costOf.get(`${one.account}\n${one.providerId}`) ?? 0 }))
      .filter(({ cost }) => cost > 0)
      .sort((a, b) => b.cost - a.cost)
  };
}

async function withMarks(db: Database, change: NamedChange): Promise<ChangeSeen> {
  const span = range(startOfDay((change.day - 1) as DayNumber), startOfDay((change.day + 1) as DayNumber));
  const marks = await marksIn(db, span, { services: [change.item.service] });
  return { ...change, marks: marks.map(({ text, from }) => ({ text, at: from })) };
}
