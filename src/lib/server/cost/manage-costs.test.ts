import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { dateOf, dayAt, startOfDay, type DayNumber } from '../../core/cost';
import { readingAt } from '../../core/receive/received';
import { isRefused } from '../../core/problem/problem';
import { day, hour, minute, range } from '../../core/time';
import { keyByText, makeKey, type Key } from '../intake/receive/keys';
import { storeReceived } from '../intake/receive/receive';
import { allRates, costSettings } from './cost-settings';
import { costMonth } from './cost-view';
import { IdleResources } from './idle-resources';
import { importBills, removeRate, setCurrency, setRate } from './manage-costs';

const header =
  'BilledCost,EffectiveCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ServiceName,SubAccountName,ResourceId,ResourceName,ChargeDescription';

describe('bills of files, and the currencies that they are in', () => {
  const house = withHouse({}, { BUSSOLA_BILLS_MS: '200' });
  let key: Key;
  let today: DayNumber;
  const row = (day: number, cost: string, currency: string, account = 'harbour') => {
    const [from, to] = [day, day + 1].map((one) => `${dateOf(one as DayNumber)}T00:00:00Z`);
    return `${cost},${cost},${currency},Usage,${from},${to},Machines,${account},web,web,hours`;
  };
  const file = (...rows: string[]) => new Uint8Array(Buffer.from([header, ...rows].join('\n')));
  const code = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: unknown) => (isRefused(error) ? error.code : String(error))
    );
  const total = async () => {
    const { report } = await costMonth(house.bussola, {
      ...{ month: dateOf(today).slice(0, 7), by: 'service', basis: 'amortised', filters: [] }
    });
    return { total: report.total / 1e6, unrated: report.unrated };
  };

  before(async () => {
    const { db, clock } = house.bussola;
    // The 15th, so that all days are of one month.
    const now = new Date(clock.now());
    house.clock.pass((Date.UTC(now.getUTCFullYear(), now.getUTCMonth(), 15, 12) - clock.now()) / minute);
    today = dayAt(clock.now());
    const made = { ...{ name: 'harbour', expiresAt: null, mostSeries: 10, mostBytesADay: 1e9 }, createdBy: 'test' };
    key = (await keyByText(db, (await makeKey(db, { ...made, createdAt: clock.now() })).text, clock.now()))!;
    await storeReceived(house.bussola, key, {
      series: [
        {
          resource: { id: 'web', name: 'web', tags: {} },
          metric: { name: 'served', description: '', unit: '1', kind: 'gauge' },
          ...{ labels: {}, weight: 1, points: [readingAt(clock.now(), 1)], starts: [null] }
        }
      ],
      ...{ refused: [], faults: [] }
    });
  });

  it('say of a file what is in it, day and account, and that a day centuries away is a mistake', async () => {
    const { bussola } = house;
    const text = file(row(today - 3, '10', 'EUR'), row(today - 2, '4', 'CHF'), row(200_000, '1', 'EUR'));
    const found = await bussola.costs.bills.preview(text, false, house.clock.now());
    expect(found.accounts).to.deep.equal([
      {
        ...{ name: 'harbour', provider: '', entries: 2, from: today - 3, to: today - 1 },
        totals: { EUR: 10_000_000, CHF: 4_000_000 }
      }
    ]);
    expect(found.rejected.count).to.equal(1);
    expect(found.rejected.first[0]).to.include({ line: 4 });
    expect(found.rejected.first[0]!.why).to.match(/more than a year ahead/);
    const many = Array.from({ length: 1001 }, (_, index) => row(today - 1, '1', 'EUR', `account ${index}`));
    expect(await code(bussola.costs.bills.preview(file(...many), false, house.clock.now()))).to.equal('too-large');
  });

  it('replace what was imported of the same days before, of accounts that are wanted alone', async () => {
    const { bussola } = house;
    const wanted = new Map([['harbour', key.accountId]]);
    const send = (...rows: string[]) => importBills(bussola, file(...rows), false, wanted);
    await send(row(today - 3, '10', 'EUR'), row(today - 2, '20', 'EUR'), row(today - 2, '999', 'EUR', 'another'));
    expect((await total()).total).to.equal(30);
    await send(row(today - 2, '21', 'EUR'), row(today - 1, '5', 'CHF'));
    expect(await total()).to.deep.equal({ total: 31, unrated: { CHF: 5_000_000 } });
    expect(await code(importBills(bussola, file(row(today, '1', 'EUR')), false, new Map([['harbour', 999]])))).to.equal(
      'not-found'
    );
  });

  it('count in one’s own currency by the rate of their day; no change of it makes any of them vanish', async () => {
    const { bussola } = house;
    const rate = (currency: string, from: number, value: number) =>
      setRate(bussola, { currency, from: dateOf(from as DayNumber), rate: value }, 'Kaja');
    expect(await code(rate('EUR', today, 1))).to.equal('invalid');
    expect(await code(setCurrency(bussola, 'CHF', 'Kaja')), 'euro would have no rate').to.equal('in-use');
    await rate('CHF', today - 30, 2);
    await rate('CHF', today - 1, 4);
    expect(await total()).to.deep.equal({ total: 31 + 20, unrated: {} });
    await removeRate(bussola, { currency: 'CHF', from: dateOf((today - 1) as DayNumber) });
    expect((await total()).total).to.equal(31 + 10);
    const first = { currency: 'CHF', from: dateOf((today - 30) as DayNumber) };
    expect(await code(removeRate(bussola, first)), 'the only one').to.equal('in-use');
    expect(await code(removeRate(bussola, { ...first, from: '2001-01-01' }))).to.equal('not-found');
    await setCurrency(bussola, 'CHF', 'Kaja');
    expect((await costSettings(bussola.db)).currency).to.equal('CHF');
    expect((await allRates(bussola.db)).map(({ currency, rate: of }) => [currency, of])).to.deep.equal([['EUR', 0.5]]);
    expect((await total()).total).to.equal(31 / 2 + 5);
  });

  it('become samples of resources that nothing is collected from', async () => {
    const { db, store } = house.bussola;
    await until(
      'samples',
      async () => {
        house.clock.pass(1);
        const left = await db.rows('select 1 from cost_days where sampled_revision is distinct from revision');
        return left.length === 0;
      },
      30_000
    );
    const series = await db.rows<{ id: number; account: number }>(
      `select id, account_id as account from series where metric in ('resource.cost', 'account.cost') order by account_id = $1`,
      [key.accountId]
    );
    expect(new Set(series.map(({ account }) => account)).size, 'its own account, and Bussola’s').to.equal(2);
    const days = range(startOfDay((today - 3) as DayNumber), startOfDay(today));
    const { columns } = await store.samples.frame([series.at(-1)!.id], days, day, 'sum');
    expect([...columns[0]!.values], 'in francs').to.deep.equal([5, 10.5, 5]);
  }).timeout(180_000);

  it('of a resource that has done nothing for days are found with the evidence, once an hour', async () => {
    const { bussola, clock } = house;
    const cells = 24 * 6;
    const send = (id: string, valueAt: (index: number) => number) =>
      storeReceived(bussola, key, {
        series: [
          {
            resource: { id, name: id, tags: {} },
            metric: { name: 'function.calls', description: '', unit: '1', kind: 'gauge' },
            ...{ labels: {}, weight: 1, starts: Array.from({ length: cells }, () => null) },
            points: Array.from({ length: cells }, (_, index) =>
              readingAt(clock.now() - (cells - index) * hour + minute, valueAt(index))
            )
          }
        ],
        ...{ refused: [], faults: [] }
      });
    await send('sleeps', (index) => (index < 24 ? 9 : 0));
    await send('works', () => 9);
    await send('slept', (index) => (index < cells - 30 ? 0 : 9));
    await bussola.db.rows(`update resources set type = 'function' where name in ('sleeps', 'works', 'slept')`);
    const idle = new IdleResources(bussola);
    const found = await idle.at(clock.now());
    expect(found.map(({ name, words, isAtLeast }) => [name, words, isAtLeast])).to.deep.equal([
      ['sleeps', 'no calls', false]
    ]);
    expect(clock.now() - found[0]!.since).to.be.within((cells - 25) * hour, (cells - 23) * hour);
    await send('sleeps', () => 9);
    expect(await idle.at(clock.now()), 'the same hour').to.have.length(1);
    house.clock.pass(60);
    expect(await idle.at(clock.now())).to.deep.equal([]);
  });
});
