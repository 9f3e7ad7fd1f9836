import { micros, monthAt, type BillEntry, type CostItem, type DayNumber } from '../src/lib/core/cost';

import { instant } from '../src/lib/core/time';
import { BillWriter } from '../src/lib/server/cost/bill-writer';
import { openCosts } from '../src/lib/server/cost/open-costs';
import { oneRow } from '../src/lib/server/db/pool';
import { randomFrom } from './band-series';
import { onEachHome, type Home } from './homes';
import { accountOf } from './lines';
import { inTurn, type Measurement } from './measurement';

const resources = Number(process.env['BUSSOLA_BENCH_RESOURCES'] ?? 100_000);
const usages = ['hours', 'stored bytes', 'requests', 'transfer'];
const services = ['machines', 'databases', 'objects', 'queues', 'functions', 'balancers', 'clusters', 'caches'];
const month = monthAt(20_600 as DayNumber);

/** What is billed: so many resources, each of four usage types. */
const items = (): CostItem[] =>
  Array.from({ length: resources * usages.length }, (_, index) => {
    const resource = Math.floor(index / usages.length);
    return {
      ...{ resource: `r-${resource}`, resourceName: `thing-${resource}`, resourceType: 'thing', unit: 'h' },
      ...{ region: `region-${resource % 5}`, service: services[resource % services.length] as string },
      ...{ usage: usages[index % usages.length] as string, category: 'usage' as const },
      ...{ currency: resource % 10 === 0 ? 'CHF' : 'EUR', labels: { team: `team-${resource % 40}` } }
    };
  });

/**
 * A report of a month by service, with the days before it to compare with, of 100,000 resources with four usage types each, against SQL over a row for each of them and each day. Ours is asked
 * across its thread's border, as pages ask it, of days that are in memory; the first time, when they are not, is a figure of its own.
 */
export function costMonth(): Promise<Measurement[]> {
  return onEachHome(async (home) => {
    const { stored, bytes } = await fill(home);
    const costs = openCosts(home.connection);
    const given = { currency: 'EUR', rates: [{ currency: 'CHF', from: '2026-01-01', rate: 1.05 }] };
    const query = { ...month, basis: 'amortised', filters: [], most: 20 } as const;
    const ask = (by: 'service' | 'resource') =>
      costs.book((book) => book.compared({ ...query, by }, { from: month.from, to: month.from }, given));
    const first = performance.now();
    const { report } = await ask('service');
    const firstTook = performance.now() - first;
    const sql = (by: string) => () =>
      home.db.rows(
        `select ${by} as value, day, sum(round(billed * coalesce(rate, 1)))::bigint as total
         from plain_costs join plain_items using (item) left join (values ('CHF', 1.05)) as rates (currency, rate) using (currency)
         group by 1, 2`
      );
    const seconds = await inTurn(3, () => ask('service'), sql('service'));
    const byResource = await inTurn(1, () => ask('resource'), sql('resource'));
    const { total } = oneRow(
      await home.db.rows<{ total: number }>(
        `select sum(round(billed * case currency when 'CHF' then 1.05 else 1 end))::bigint as total from plain_costs join plain_items using (item)`
      )
    );
    // Ours rounds what is billed in a currency of a group and a day, SQL each row.
    if (Math.abs(total - report.total) > stored) throw new Error(`cost.month: ${report.total} is not ${total}.`);
    await costs.close();
    return {
      name: 'cost.month',
      unit: 'ms',
      better: 'lower',
      ours: seconds.ours * 1000,
      theirs: seconds.theirs * 1000,
      alternative: `SQL over a row for each item and day, joined to its items, in the same ${home.name}`,
      more: {
        'first time': firstTook,
        'by resource': byResource.ours * 1000,
        'SQL by resource': byResource.theirs * 1000,
        'bytes a row': bytes / stored
      },
      note: `${resources} resources × ${month.to - month.from} days × ${usages.length} usage types, by service; goal 500 ms`
    };
  });
}

/** Bills of a month, stored as ours and as rows. */
async function fill({ db }: Home): Promise<{ stored: number; bytes: number }> {
  const accountId = await accountOf(db);
  const writer = new BillWriter(db);
  const all = items();
  const random = randomFrom(16);
  const usual = Float64Array.from(all, () => 100_000 + Math.floor(random() * 5_000_000));
  await db.rows(
    'create table plain_items (item integer primary key, resource text, service text, usage text, currency text)'
  );
  await db.rows('create table plain_costs (day integer, item integer, billed bigint)');
  for (let from = 0; from < all.length; from += 50_000) {
    const some = all.slice(from, from + 50_000);
    await db.rows(
      'insert into plain_items select $1 + row_number() over () - 1, * from unnest($2::text[], $3::text[], $4::text[], $5::text[])',
      [
        from,
        some.map(({ resource }) => resource),
        some.map(({ service }) => service),
        some.map(({ usage }) => usage),
        some.map(({ currency }) => currency)
      ]
    );
  }
  for (let day = month.from; day < month.to; day = (day + 1) as DayNumber) {
    const amounts = usual.map((amount) => Math.floor(amount * (0.9 + 0.2 * random())));
    const entries = all.map((item, index): BillEntry => {
      const amount = micros(amounts[index] as number);
      return { item, day, billed: amount, amortised: amount, quantity: 24 };
    });
    await writer.put(accountId, { from: day, to: (day + 1) as DayNumber }, entries, instant(0));
    for (let from = 0; from < amounts.length; from += 100_000)
      await db.rows('insert into plain_costs select $1, $2 + row_number() over () - 1, * from unnest($3::bigint[])', [
        day,
        from,
        [...amounts.subarray(from, from + 100_000)]
      ]);
  }
  await db.rows('vacuum analyze plain_costs');
  const { bytes } = oneRow(
    await db.rows<{ bytes: number }>('select sum(length(amounts) + length(quantities))::bigint as bytes from cost_days')
  );
  return { stored: all.length * (month.to - month.from), bytes };
}
