import { expect } from 'chai';
import { linesOf, type WorldStream } from '../../../../../stand-ins/world/lines/line';
import { levanteStreams, maestroStreams, ostroStreams } from '../../../../../stand-ins/world/lines/streams';
import { connect, seed, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import { usualPlan } from '../../../core/intake';
import { hour, minute, range, type Instant } from '../../../core/time';
import { savePlan } from '../../intake/plan/plans';
import type { Account } from '../../inventory/accounts';
import { allDropped } from '../../intake/ledger/collections';
import { registered } from '../../providers/registry';
import { searchLines } from '../ask';
import { feedsOf } from './feeds';
import { lineCoverage } from './line-coverage';

const credentials: Record<string, { keyId: string; secret: string }> = {
  levante: { keyId: 'LEVK-CORALLO-PROD', secret: 'demo-only-2f9c61d07be84a35' },
  ostro: { keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' },
  maestro: { keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' }
};

describe('lines of three unlike providers', () => {
  const house = withHouse(registered, { BUSSOLA_LINES_MS: '300' });
  const accounts: Record<string, Account> = {};
  const world = () => ({ seed, start: house.standIns.levante.start });
  const historyOf = 3 * hour;

  /** How many lines a search finds in a span, and the first of them. */
  async function found(text: string, from: number, to: number) {
    let last = null;
    const asked = { text, range: range(from as Instant, to as Instant), most: 5, step: minute, accounts: null };
    for await (const progress of searchLines(house.bussola, asked)) last = progress;
    return { count: last?.count ?? 0, lines: last?.lines ?? [] };
  }
  const written = (stream: WorldStream, from: number, to: number) => linesOf(stream, world(), from, to).length;

  const isFilled = async (): Promise<boolean> => {
    const oldest = house.clock.now() - historyOf;
    for (const account of Object.values(accounts)) {
      const feeds = await feedsOf(house.bussola.db, account.id);
      if (feeds.length === 0 || feeds.some(({ historyTo }) => historyTo > oldest + 60_000)) return false;
      if (feeds.some(({ until: reached }) => reached < house.clock.now() - 2 * minute)) return false;
    }
    return true;
  };

  before(async function () {
    this.timeout(240_000);
    for (const [provider, credential] of Object.entries(credentials))
      accounts[provider] = await connect(house, provider, { provider, ...credential, historyMinutes: 180 });
    await until('lines and their history', isFilled, 60_000);
  });

  it('are those that are written, each once, from the beginning of the history to what is complete', async () => {
    const now = house.clock.now();
    const [from, to] = [now - historyOf + minute, now - 2 * minute];
    for (const stream of [...levanteStreams, ...ostroStreams])
      expect((await found(`resource = "${stream.name}"`, from, to)).count, stream.name).to.equal(
        written(stream, from, to)
      );
    for (const stream of maestroStreams.filter(({ workload }) => workload !== null))
      expect((await found(`container.name = "${stream.name}"`, from, to)).count, stream.name).to.equal(
        written(stream, from, to)
      );
  });

  it('are of the resource that wrote them, its service and its account', async () => {
    const now = house.clock.now();
    const [node] = (await found('host.name = harbour-n2', now - historyOf, now)).lines;
    expect(node).to.include({ resource: 'harbour-n2', service: 'clusters', account: 'maestro', stream: 'harbour-n2' });
    const [copy] = (await found('container.name = quote-1', now - historyOf, now)).lines;
    expect(copy).to.include({ resource: 'quote', service: 'clusters', stream: 'quote' });
    const [machine] = (await found('resource = booking-web-2', now - historyOf, now)).lines;
    expect(machine).to.include({ service: 'machines', account: 'levante', stream: 'booking-web-2' });
  });

  it('come on as they are written, and none twice', async function () {
    this.timeout(180_000);
    const before = house.clock.now();
    house.clock.pass(10);
    const to = before + 8 * minute;
    await until('what was written since', isFilled, 40_000);
    for (const stream of [levanteStreams[0]!, ostroStreams[0]!])
      expect((await found(`resource = "${stream.name}"`, before - hour, to)).count, stream.name).to.equal(
        written(stream, before - hour, to)
      );
  });

  it('are left out as the plan says, and counted', async function () {
    this.timeout(180_000);
    const { db, clock } = house.bussola;
    const accountId = accounts['levante']!.id;
    const plan = { ...usualPlan, lines: { collect: true, from: 13, leaveOut: 'resource_missing or "already used"' } };
    await savePlan(db, accountId, 'machines', plan, 'a test', clock.now());
    const before = house.clock.now();
    house.clock.pass(10);
    await until('what was written since', isFilled, 40_000);
    const [from, to] = [before + minute, before + 8 * minute];
    const web = levanteStreams[0]!;
    expect((await found(`resource = "${web.name}"`, from, to)).count).to.equal(
      linesOf(web, world(), from, to).filter(({ severity }) => severity >= 13).length
    );
    const dropped = (await allDropped(db)).filter((one) => one.accountId === accountId);
    expect(dropped.map(({ reason }) => reason)).to.include('lines below the severity of the plan');
    const coverage = (await lineCoverage(house.bussola, accounts['levante']!)).find(
      ({ service }) => service === 'machines'
    );
    expect(coverage?.leftOut).to.be.above(0);
  });

  it('are not read where the plan collects none; what failed is said of the feed', async function () {
    this.timeout(180_000);
    const { db, clock } = house.bussola;
    await savePlan(
      db,
      accounts['levante']!.id,
      'databases',
      { ...usualPlan, lines: { ...usualPlan.lines, collect: false } },
      'a test',
      clock.now()
    );
    house.standIns.ostro.faultMode = 'down';
    const before = house.clock.now();
    house.clock.pass(10);
    await until(
      'the fault',
      async () => (await feedsOf(db, accounts['ostro']!.id)).some(({ lastError }) => lastError?.code === 'unavailable'),
      40_000
    );
    house.standIns.ostro.faultMode = 'usual';
    const feeds = await feedsOf(db, accounts['levante']!.id);
    await until(
      'the machines',
      async () =>
        (await feedsOf(db, accounts['levante']!.id)).every(
          ({ service, until: reached }) => service !== 'machines' || reached > before + 8 * minute
        ),
      40_000
    );
    expect(feeds.filter(({ service }) => service === 'databases')).to.have.length(1);
    expect((await found('resource = "ticket-orders"', before + minute, before + 9 * minute)).count).to.equal(0);
  });
});
