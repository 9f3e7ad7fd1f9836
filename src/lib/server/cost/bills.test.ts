import { expect } from 'chai';
import { chargesOf as levanteCharges } from '../../../../stand-ins/levante/bills';
import { billFiles, billRows } from '../../../../stand-ins/maestro/bills';
import { chargesOf as ostroCharges, hourlyCosts, revisionAt } from '../../../../stand-ins/ostro/bills';
import { connect, seed, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { dateOf, dayAt, monthAt, type CostBasis, type DayNumber } from '../../core/cost';
import { day as dayLength, instant } from '../../core/time';
import type { Account } from '../inventory/accounts';
import { registered } from '../providers/registry';
import { allBillReads } from './bill-reads';
import { allRates, saveRate } from './cost-settings';

const credentials: Record<string, { keyId: string; secret: string }> = {
  levante: { keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  ostro: { keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' },
  maestro: { keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' }
};

describe('bills of three unlike providers', () => {
  const house = withHouse(registered, { BUSSOLA_BILLS_MS: '200' });
  const accounts: Record<string, Account> = {};
  const author = { at: instant(0), by: 'test' };
  let month: { from: DayNumber; to: DayNumber };

  /** Whether the bills of all accounts have been read at the present time, or after it. */
  const isRead = async (): Promise<boolean> => {
    const reads = await allBillReads(house.bussola.db);
    const now = house.clock.now();
    return Object.values(accounts).every(({ id }) =>
      reads.some(({ accountId, readAt }) => accountId === id && readAt === now)
    );
  };
  /** Lets time pass until the bills have been read once more. */
  const readAgain = async (hours: number) => {
    house.clock.pass(hours * 60);
    await until('the bills', isRead, 60_000);
  };
  const report = async (basis: CostBasis, filters: { by: 'account'; values: string[] }[] = []) => {
    const given = { currency: 'EUR', rates: await allRates(house.bussola.db) };
    const question = { ...month, by: 'account', basis, filters, most: 10 } as const;
    const [found] = await house.bussola.costs.book((book) => book.reports([question], given));
    return found!;
  };
  const days = () => Array.from({ length: month.to - month.from }, (_, index) => (month.from + index) as DayNumber);
  const rateOn = (day: DayNumber) => (day >= month.from + 9 ? 1.1 : 1.04);
  const sumOf = (amounts: readonly number[]) => amounts.reduce((sum, one) => sum + one, 0);

  /** What the tenant's costs of a day are at present, in francs. */
  const ostroOn = (day: DayNumber) => {
    const revision = revisionAt(day, house.clock.now());
    return sumOf(
      ostroCharges(seed, house.standIns.ostro.start).map((charge) => sumOf(hourlyCosts(seed, charge, day, revision)))
    );
  };

  before(async function () {
    this.timeout(300_000);
    // The whole of last month, whose newest days are still being corrected at its end: it is the 2nd.
    const start = new Date(house.clock.now());
    const second = Date.UTC(start.getUTCFullYear(), start.getUTCMonth() + 1, 2, 6);
    house.clock.pass((second - house.clock.now()) / 60_000);
    month = monthAt((dayAt(house.clock.now()) - 5) as DayNumber);
    for (const [currency, from, rate] of [
      ['CHF', month.from - 400, 1.04],
      ['CHF', month.from + 9, 1.1]
    ] as const)
      await saveRate(house.bussola.db, { currency, from: dateOf(from as DayNumber), rate }, author);
    for (const [provider, credential] of Object.entries(credentials))
      accounts[provider] = await connect(house, provider, { provider, ...credential });
    await until('the bills', isRead, 90_000);
  });

  it('are what their formula says to the millionth, with the rate of each day', async () => {
    const found = await report('billed');
    const totals = Object.fromEntries(found.groups.map(({ value, total }) => [value, total]));
    const levante = levanteCharges(seed, 'corallo-prod');
    expect(totals['levante']).to.equal(sumOf(days().flatMap((day) => levante.map((charge) => charge.billedOn(day)))));
    expect(totals['ostro']).to.equal(sumOf(days().map((day) => Math.round(ostroOn(day) * rateOn(day)))));
    const file = billFiles(house.clock.now()).find(({ month: name }) => dateOf(month.from).startsWith(name))!;
    const { rows, credit } = billRows(seed, file);
    expect(totals['maestro']).to.equal(sumOf(rows.map(({ amount }) => amount)) + credit);
    expect(credit, 'the credit is not there yet').to.equal(0);
    expect([...found.days].every(Number.isFinite), 'each day').to.equal(true);
    expect(found.unrated).to.deep.equal({});
  }).timeout(60_000);

  it('spread what is paid for a month over its days, where that is asked for', async () => {
    const levante = levanteCharges(seed, 'corallo-prod');
    const filters = [{ by: 'account', values: ['levante'] }] as [{ by: 'account'; values: string[] }];
    const [billed, amortised] = [await report('billed', filters), await report('amortised', filters)];
    expect([...amortised.days]).to.deep.equal(
      days().map((day) => sumOf(levante.map((charge) => charge.amortisedOn(day))))
    );
    expect(amortised.total).to.equal(billed.total);
    expect(billed.days[0]! - amortised.days[0]!).to.be.above(100_000_000);
  }).timeout(60_000);

  it('are replaced by their corrections, never added to, and then stay', async () => {
    const before = await report('billed');
    for (let days_ = 0; days_ < 4; days_++) await readAgain(24);
    const after = await report('billed');
    const by = (found: typeof after) => Object.fromEntries(found.groups.map(({ value, total }) => [value, total]));
    expect(by(after)['levante']).to.equal(by(before)['levante']);
    expect(by(after)['ostro'], 'corrected').to.not.equal(by(before)['ostro']);
    const final = ostroCharges(seed, house.standIns.ostro.start);
    expect(by(after)['ostro']).to.equal(
      sumOf(days().map((day) => Math.round(sumOf(final.map((charge) => charge.billedOn(day))) * rateOn(day))))
    );
    const file = billFiles(house.clock.now()).find(({ month: name }) => dateOf(month.from).startsWith(name))!;
    const { rows, credit } = billRows(seed, file);
    expect(credit, 'a credit for the whole month').to.be.below(0);
    expect(by(after)['maestro']).to.equal(sumOf(rows.map(({ amount }) => amount)) + credit);
  }).timeout(300_000);

  it('become metrics of resources and accounts in one’s own currency, corrected as the bill is', async () => {
    const { db, store } = house.bussola;
    const ostro = accounts['ostro']!;
    const [series] = await db.rows<{ id: number }>(
      `select series.id from series join resources on resources.id = series.resource_id and resources.account_id = series.account_id
       where series.account_id = $1 and resources.name = 'manifest-archive' and metric = 'resource.cost'`,
      [ostro.id]
    );
    const span = { from: instant(month.from * dayLength), to: instant(month.to * dayLength) };
    const charges = ostroCharges(seed, house.standIns.ostro.start).filter(({ name }) => name === 'manifest-archive');
    const expected = days().map(
      (day) => Math.round(sumOf(charges.map((one) => one.billedOn(day))) * rateOn(day)) / 1_000_000
    );
    await until('samples as billed', async () => {
      const { columns } = await store.samples.frame([series!.id], span, dayLength, 'sum');
      const values = columns[0]!.values;
      return expected.every((one, index) => Math.abs(one - values[index]!) < 2e-6);
    });
  }).timeout(90_000);

  it('say what could not be read and why, and go on when it can', async () => {
    house.standIns.levante.faultMode = 'refusing';
    house.standIns.ostro.faultMode = 'malformed';
    house.clock.pass(4 * 60);
    const codes = async () =>
      new Map((await allBillReads(house.bussola.db)).map(({ accountId, lastError }) => [accountId, lastError?.code]));
    const isNoted = async () => (await codes()).get(accounts['ostro']!.id) === 'malformed';
    await until('the fault', isNoted, 40_000);
    house.standIns.levante.faultMode = 'usual';
    house.standIns.ostro.faultMode = 'usual';
    const before = await report('billed');
    await readAgain(4);
    expect((await codes()).get(accounts['ostro']!.id)).to.equal(undefined);
    expect((await report('billed')).total).to.equal(before.total);
  }).timeout(300_000);
});
