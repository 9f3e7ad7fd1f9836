import { dateOf, dayAt, groupWords, dayOf, monthAt, monthWords, type DayNumber, type Micros } from '$lib/core/cost';
import { mostListed, type Summary } from '$lib/core/summary';
import { dateAt, type Range } from '$lib/core/time';
import { allRates, costSettings } from '../cost/cost-settings';
import { billStandings, costFindings, wholeUntil, type CostReader } from '../cost/cost-view';

/** Days before a month that its forecast goes by. */
const pastDays = 42;

/**
 * What a week or month cost, by services, against as many days before; what is expected of its month, and what changed. Days are those of UTC, as bills have them.
 *
 * @returns null where nothing is billed
 */
export async function summaryCost(
  reader: CostReader,
  period: Range,
  earlier: Range,
  zone: string
): Promise<Summary['cost']> {
  const { db, clock, costs } = reader;
  const bills = await billStandings(db);
  if (bills.every(({ newest }) => newest === null)) return null;
  const billedUntil = wholeUntil(bills, dayAt(clock.now()));
  const [from, end] = [dayOf(dateAt(period.from, zone)), dayOf(dateAt(period.to, zone))];
  const to = Math.max(from, Math.min(end, billedUntil)) as DayNumber;
  const past = { from: dayOf(dateAt(earlier.from, zone)), to: dayOf(dateAt(earlier.to, zone)) };
  const pastTo = (to === end ? past.to : Math.min(past.to, past.from + (to - from))) as DayNumber;
  const [{ currency }, rates] = await Promise.all([costSettings(db), allRates(db)]);
  const given = { currency, rates };
  const basis = 'amortised' as const;
  const { report, earlier: compared } = await costs.book((book) =>
    book.compared(
      { from, to, by: 'service', basis, filters: [], most: mostListed },
      { from: past.from, to: pastTo },
      given
    )
  );
  const month = monthAt((end - 1) as DayNumber);
  // Of a month that is billed as a whole nothing is to be expected any more.
  const isOver = billedUntil >= month.to;
  const expected = isOver
    ? null
    : await costs.book((book) =>
        book.forecast(
          {
            ...{ from: month.from, to: month.to, basis, filters: [], past: (month.from - pastDays) as DayNumber },
            now: Math.max(month.from, Math.min(month.to, billedUntil)) as DayNumber
          },
          given
        )
      );
  const findings = await costFindings(reader, { month: { name: '', from, to: end }, until: to, billedUntil, basis });
  const isPastBilled = compared.days.some((amount) => !Number.isNaN(amount));
  return {
    currency,
    ...{ total: report.total, earlier: isPastBilled ? compared.total : null },
    unbilledFrom: to < end ? dateOf(to) : null,
    days: Array.from({ length: end - from }, (_, index) => ({
      date: dateOf((from + index) as DayNumber),
      amount: numberOrNull(report.days[index] ?? NaN)
    })),
    services: report.groups.map(({ value, title, total }) => ({
      ...{ title: groupWords('service', value, title), total },
      earlier: isPastBilled ? (compared.groups.get(value) ?? (0 as Micros)) : null
    })),
    expected:
      expected === null
        ? null
        : {
            month: monthWords(month, Number(dateOf(from).slice(0, 4))),
            ...{ middle: expected.expected, low: expected.low, high: expected.high }
          },
    changes: findings.changes
      .filter((change) => change.day >= from && change.day < to)
      .slice(0, mostListed)
      .map(({ item, day, before, after, marks }) => ({
        what: item.resourceName === '' ? item.usage : `${item.resourceName} (${item.usage})`,
        ...{ date: dateOf(day), before, after, near: marks[0]?.text ?? '' }
      }))
  };
}

const numberOrNull = (value: number): number | null => (Number.isNaN(value) ? null : value);
