import { type Problem } from '$lib/core/problem/problem';
import { budgetSchema } from '../../core/cost';
import { promises } from '../../../../demo/objectives';
import { budgets } from '../cost/budgets';
import { objectives } from '../objective/objectives';
import { registered } from '../providers/registry';
import { expect } from 'chai';
import { timed } from '../base/own-counters';
import { accounts } from '../../../../demo/corallo';
import { checks } from '../../../../demo/checks';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { signalsOf, type Panel } from '../../core/board';
import { groupBoard, resourceBoard, starterBoard, starterKeys } from '../../core/board/starters';
import type { QueryAnswer } from '../../core/series';
import { linesOf, picksOf, type Signal } from '../../core/signal';
import type { GroupRule } from '../../core/group';
import { hour, instant, minute, textFromInstant, type Instant } from '../../core/time';
import { saveGroup } from '../query/groups/save-group';
import { allCollections } from '../intake/ledger/collections';
import { metricsWithUse } from '../inventory/metrics';
import { allResources } from '../inventory/resources';
import { seriesOfMetrics } from '../inventory/series';
import { gateToken } from '../../../../stand-ins/gates/gates';
import { targetsSchema } from '../../core/targets';
import { connectPages } from '../intake/targets/manage-pages';
import { answerQueries } from '../query/query';
import { addCheck } from '../reachability/manage-checks';

/** The ready boards against what three providers report: worth using as they are. */
describe('ready boards, filled from what is collected', () => {
  const house = withHouse(registered, { BUSSOLA_BILLS_MS: '300' });

  before(async function () {
    this.timeout(240_000);
    const { secure, names } = house.standIns.front.ports;
    for (const check of checks(house.standIns.url, { secure, names })) await addCheck(house.bussola, check, 'a test');
    for (const { name, provider, keyId, secret } of accounts)
      await connect(house, name, { provider, keyId, secret, historyMinutes: 180 });
    await until(
      'every collection',
      async () => {
        const all = await allCollections(house.bussola.db);
        return all.length > 12 && all.every(({ service, lastSuccessAt }) => service === 'gateways' || lastSuccessAt);
      },
      100_000
    );
    await until(
      'the history',
      async () => {
        const [row] = await house.bussola.db.rows<{ count: number }>(
          `select count(*)::integer as count from gaps where service <> 'gateways'`
        );
        return row?.count === 0;
      },
      100_000
    );
    const definition = targetsSchema.parse({
      find: { by: 'http', url: `${house.standIns.url}/gates/pages.json` },
      signIn: { by: 'bearer' }
    });
    await connectPages(house.bussola, { name: 'ticket-gates', definition, secret: gateToken }, 'test');
    const budget = budgetSchema.parse({
      ...{ name: 'All', amount: 20_000, currency: 'EUR', period: { kind: 'month' }, on: 'expected' },
      levels: [{ severity: 'major', percent: 100 }]
    });
    await budgets.add(house.bussola, budget, 'test');
    const [, promise] = promises(() => 1);
    await objectives.add(house.bussola, promise!, 'test');
    // How resources, budgets and promises stand is measured with the next minute.
    let looks = 0;
    await until(
      'bills and what is measured of them',
      async () => {
        // What is pulled of a minute takes a while: it does not pass with every look.
        if (looks++ % 20 === 0) house.clock.pass(1);
        // Nobody requests a page or a query meanwhile, and Bussola counts them.
        for (const work of ['requests', 'queries'] as const) await timed(work, () => Promise.resolve());
        const metrics = await metricsWithUse(house.bussola.db);
        return ['budget.expected', 'account.cost', 'objective.pace'].every((wanted) =>
          metrics.some(({ name, isCollected }) => name === wanted && isCollected)
        );
      },
      90_000
    );
    await until('what Bussola measures itself', async () =>
      (await metricsWithUse(house.bussola.db)).some(({ name, isCollected }) => name === 'resource.up' && isCollected)
    );
  });

  /** Answers of signals over the last three hours, this minute among them: what Bussola measures itself has a sample of it, and perhaps no other. */
  async function answersOf(signals: readonly Signal[]): Promise<(QueryAnswer | Problem)[]> {
    const now = instant(house.clock.now() + minute);
    const bytes = await answerQueries(house.bussola, {
      signals: [...signals],
      from: textFromInstant((now - 3 * hour) as Instant),
      to: textFromInstant(now),
      zone: 'UTC',
      values: 'numbers'
    });
    return JSON.parse(Buffer.from(bytes).toString()) as (QueryAnswer | Problem)[];
  }
  const hasValues = (answer: QueryAnswer | Problem): boolean =>
    'series' in answer &&
    answer.series.some(({ values }) => [...(values as Iterable<number | null>)].some((value) => value !== null));

  /** Panels whose numbers come so late that nothing of them need lie within the last three hours. */
  const isLate = async (signal: Signal): Promise<boolean> => {
    const series = await seriesOfMetrics(
      house.bussola.db,
      picksOf(signal).map(({ metric }) => metric)
    );
    return series.length > 0 && series.every(({ samplingMs, delayMs }) => samplingMs + delayMs > 3 * hour);
  };

  /** What is wrong with panels, in words: signals that cannot be computed, and pictures that stay empty. */
  async function faultsOf(panels: readonly Panel[]): Promise<string[]> {
    const asked = panels.flatMap((panel) => signalsOf(panel).map((signal) => ({ title: panel.title, signal })));
    const answers = await answersOf(asked.map(({ signal }) => signal));
    const faults: string[] = [];
    for (const [index, { title, signal }] of asked.entries()) {
      const answer = answers[index] as QueryAnswer | Problem;
      if (!('series' in answer)) faults.push(`${title}: ${answer.message}`);
      // No lines are read here: counts of lines have nothing to count.
      else if (!hasValues(answer) && linesOf(signal).length === 0 && !(await isLate(signal)))
        faults.push(`${title}: empty`);
    }
    return faults;
  }

  /** What each board would show too, if it were collected: the usual plans leave it out. */
  const lacking: Readonly<Record<string, readonly string[]>> = {
    databases: ['database.replica.lag', 'database.rows-read'],
    functions: ['function.at-once'],
    balancers: ['balancer.targets.healthy'],
    caches: ['cache.connections'],
    gateways: ['gateway.tunnels', 'gateway.dropped', 'gateway.bytes-out']
  };

  for (const key of starterKeys)
    it(`of ${key}: every signal is worked out, every panel shows something, and what is left out is said`, async () => {
      const all = await metricsWithUse(house.bussola.db);
      const { board, lacks } = starterBoard(
        key,
        all.filter(({ service }) => key === 'watch' || service === key)
      );
      expect(board.panels.length).to.be.above(2);
      expect(await faultsOf(board.panels)).to.deep.equal([]);
      expect(lacks).to.deep.equal(lacking[key] ?? []);
      const collected = new Set(all.filter(({ isCollected }) => isCollected).map(({ name }) => name));
      expect(lacks.filter((name) => collected.has(name))).to.deep.equal([]);
    }).timeout(90_000);

  it('of one resource of each service: everything that it reports', async () => {
    const { db } = house.bussola;
    const [all, metrics] = await Promise.all([allResources(db), metricsWithUse(db)]);
    const services = [...new Set(all.map(({ service }) => service))].filter((service) => service !== 'gateways');
    expect(services.length).to.be.above(8);
    for (const service of services) {
      const resource = all.find((one) => one.service === service)!;
      const series = await seriesOfMetrics(db, ['*']);
      const names = new Set(series.filter(({ resourceId }) => resourceId === resource.id).map(({ metric }) => metric));
      const own = metrics.filter(({ name, provider }) => names.has(name) && provider === resource.provider);
      const board = resourceBoard(resource, own);
      expect(board.panels.filter((panel) => signalsOf(panel).length > 0)).to.have.length(own.length);
      expect(await faultsOf(board.panels), `${service}: ${resource.name}`).to.deep.equal([]);
    }
  }).timeout(180_000);

  it('of a group: a section for each service, of its resources alone', async () => {
    const rule: GroupRule = { match: 'all', conditions: [{ label: 'resource', matches: '^(booking|fares)' }] };
    await saveGroup(house.bussola, null, { name: 'booking', rule }, 'Nerea');
    const all = await metricsWithUse(house.bussola.db);
    const services = ['machines', 'databases'].map((service) => ({
      service,
      metrics: all.filter((metric) => metric.service === service)
    }));
    const board = groupBoard('booking', services);
    expect(board.sections.map(({ title }) => title)).to.deep.equal(['Machines', 'Databases']);
    expect(await faultsOf(board.panels)).to.deep.equal([]);
    const answers = await answersOf(board.panels.flatMap(signalsOf));
    const resources = answers.flatMap((answer) =>
      'series' in answer ? answer.series.flatMap(({ labels }) => labels['resource'] ?? []) : []
    );
    expect(resources).to.include('booking-web-1');
    expect(resources.filter((name) => !/^(booking|fares)/.test(name))).to.deep.equal([]);
  });
});
