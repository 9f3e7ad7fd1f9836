import {
  dayAt,
  monthAfter,
  monthAt,
  monthOf,
  startOfDay,
  type CostSelection,
  type CostBasis,
  type DayNumber,
  type Month,
  type MonthForecast
} from '$lib/core/cost';
import { range, type Clock, type Instant } from '$lib/core/time';
import type { Database, Queryable } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import { marksIn } from '../marks/marks';
import { allBillReads, type RejectedRows } from './bill-reads';
import type { ComparedReport, NamedChange } from './cost-book';
import { newestDays } from './cost-days';
import { allRates, costSettings } from './cost-settings';
import type { IdleResource, IdleResources } from './idle-resources';
import type { CostClient } from './open-costs';

/** What looking at costs needs. */
export interface CostReader {
  readonly db: Database;
  readonly clock: Clock;
  readonly costs: CostClient;
  readonly idle: IdleResources;
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
  readonly report: ComparedReport['report'];
  /** The same days of the month before, of the same groups. */
  readonly earlier: ComparedReport['earlier'];
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
/** Groups that are listed. */
const mostGroups = 50;

/**
 * A month's costs: until now by a dimension, against the same days of the month before, and what is expected at its end.
 *
 * @throws Refusal where the thread cannot read them
 */
export async function costMonth({ db, clock, costs }: CostReader, selection: CostSelection): Promise<CostMonth> {
  const today = dayAt(clock.now());
  const month = selection.month === null ? monthAt(today) : monthOf(selection.month);
  const [{ currency }, rates, bills] = await Promise.all([costSettings(db), allRates(db), billStandings(db)]);
  const given = { currency, rates };
  const billedUntil = wholeUntil(bills, today);
  const until = Math.max(month.from, Math.min(month.to, billedUntil)) as DayNumber;
  const before = monthAfter(month, -1);
  const { by, basis, filters } = selection;
  const length = until - month.from;
  const earlierTo = Math.min(before.to, before.from + length) as DayNumber;
  const resources = filters.flatMap((filter) => (filter.by === 'resource' ? filter.values : []));
  const [{ report, earlier }, forecast, { labels, names }] = await Promise.all([
    costs.book((book) =>
      book.compared(
        { from: month.from, to: until, by, basis, filters, most: mostGroups },
        { from: before.from, to: earlierTo },
        given
      )
    ),
    costs.book((book) =>
      book.forecast(
        { from: month.from, to: month.to, basis, filters, past: (month.from - pastDays) as DayNumber, now: until },
        given
      )
    ),
    costs.book((book) => book.facets(month.from, until, resources))
  ]);
  const oldest = Math.min(...bills.map((one) => one.oldest ?? Infinity));
  return {
    ...{ month, currency, until, billedUntil, report, earlier, forecast, labels, names },
    bills: bills.map(({ oldest: _oldest, ...bill }) => bill),
    oldest: Number.isFinite(oldest) ? monthAt(oldest as DayNumber) : null
  };
}

/** The day up to which every account has its bill, but for such as are far behind. What is billed ahead, such as for the rest of a month, makes no day whole: today is not over. */
export function wholeUntil(bills: readonly BillStanding[], today: DayNumber): DayNumber {
  const newest = bills.flatMap((one) => (one.newest === null ? [] : [Math.min(one.newest, today - 1)]));
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

/** What is worth knowing of costs by itself: what changed within a month, or 30 days where it has fewer, and what does nothing now. */
export async function costFindings(
  { db, clock, costs, idle }: CostReader,
  {
    month,
    until,
    billedUntil,
    basis
  }: Pick<CostMonth, 'month' | 'until' | 'billedUntil'> & { readonly basis: CostBasis }
): Promise<CostFindings> {
  // What changed at the end of a month is known by the days behind it.
  const to = Math.min(billedUntil, until + idleDays) as DayNumber;
  const [{ currency }, rates, unused] = await Promise.all([costSettings(db), allRates(db), idle.at(clock.now())]);
  const given = { currency, rates };
  const lately = (days: DayNumber) =>
    ({ from: (days - idleDays) as DayNumber, to: days, by: 'resource', basis }) as const;
  const values = unused.map(({ account, providerId }) => `${account}\n${providerId}`);
  const [all, ofUnused] = await costs.book((book) =>
    book.reports(
      [
        { ...lately(until), filters: [], most: 0 },
        { ...lately(billedUntil), filters: [{ by: 'resource', values }], most: Infinity }
      ],
      given
    )
  );
  const aDay = (all?.total ?? 0) / 1_000_000 / idleDays;
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
  const costOf = new Map(ofUnused?.groups.map(({ value, total }) => [value, total / 1_000_000]));
  return {
    ...{ items, lookedAt },
    changes: await Promise.all(
      changes
        .filter(({ day }) => day < until)
        .slice(0, mostChanges)
        .map((change) => withMarks(db, change))
    ),
    idle: unused
      .map((one, index) => ({ ...one, cost: costOf.get(values[index] ?? '') ?? 0 }))
      .filter(({ cost }) => cost > 0)
      .sort((a, b) => b.cost - a.cost)
  };
}

async function withMarks(db: Database, change: NamedChange): Promise<ChangeSeen> {
  const span = range(startOfDay((change.day - 1) as DayNumber), startOfDay((change.day + 1) as DayNumber));
  const marks = await marksIn(db, span, { services: [change.item.service] });
  return { ...change, marks: marks.map(({ text, from }) => ({ text, at: from })) };
}
