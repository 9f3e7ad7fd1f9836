import { expect } from 'chai';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { boardSchema } from '../../core/board';
import { budgetSchema } from '../../core/cost';
import { routeSchema } from '../../core/notify/route';
import { plainSignal } from '../../core/signal';
import { insertBoardWithin } from '../boards/boards';
import { noteOpened } from '../boards/opened';
import { budgets } from '../cost/budgets';
import { makeKey } from '../intake/receive/keys';
import { draftOf, insertChannel, insertEmailChannel } from '../notify/channels';
import { forgetExpiredLink, makeLink } from '../boards/links';
import { responseSchema, usualLimits } from '../../core/response';
import { summaryPlanSchema } from '../../core/summary';
import { after, hour, instant, times } from '../../core/time';
import { insertResponse } from '../responses/responses';
import { insertPerson } from '../people/people';
import { insertPlan } from '../summary/plans';
import { insertRoute } from '../routing/routes';
import { unusedThings } from './unused';
import { usesOf } from './uses';

describe('what uses something, and what nobody uses', () => {
  const house = withHouse();
  const ids = { used: 0, lonely: 0, route: 0, budget: 0, alarm: 0, board: 0 };
  const unused = () => unusedThings(house.bussola.db, house.clock.now());
  const names = (all: readonly { readonly name: string }[]) => all.map(({ name }) => name);

  before(async function () {
    this.timeout(180_000);
    const { db, clock } = house.bussola;
    const account = await connect(house, 'corallo-prod');
    house.clock.pass(2);
    await until(
      'samples',
      async () => (await db.rows(`select 1 from series where metric = 'machine.processor.use'`)).length > 0,
      40_000
    );
    const author = { at: clock.now(), by: 'Kaja' };
    for (const name of ['used', 'lonely'] as const) {
      const made = { name, address: `${name}@example.test`, createdAt: clock.now(), createdBy: 'Kaja' };
      ids[name] = (await insertEmailChannel(db, made)).id;
    }
    const route = routeSchema.parse({
      ...{ name: 'Leads', zone: 'UTC', when: { accounts: [account.name] } },
      steps: [{ after: 0, notify: [{ kind: 'channel', channelId: ids.used }] }],
      group: { by: 'incident', wait: 0, atMostEvery: 0 }
    });
    ids.route = (await insertRoute(db, route, 'list', author)).id;
    const budget = budgetSchema.parse({
      ...{ name: 'All', amount: 10, currency: 'EUR', period: { kind: 'month' }, on: 'actual', route: ids.route },
      levels: [{ severity: 'minor', percent: 100 }]
    });
    const stored = await budgets.add(house.bussola, budget, 'Kaja');
    [ids.budget, ids.alarm] = [stored.id, stored.alarmId!];
    const board = boardSchema.parse({
      title: 'Machines',
      panels: [
        {
          ...{ id: 'a', title: 'Use', picture: 'lines', place: { x: 0, y: 0, w: 6, h: 4 } },
          signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' })
        }
      ]
    });
    ids.board = (await insertBoardWithin(db, board, { id: null, displayName: 'Kaja' }, clock.now())).id;
    const key = { name: 'sensors', mostSeries: 10, mostBytesADay: 10, createdAt: clock.now(), createdBy: 'Kaja' };
    await makeKey(db, { ...key, expiresAt: null });
  });

  it('is told of channels, routes, accounts and alarms', async () => {
    const { db } = house.bussola;
    const route = { kind: 'route', id: ids.route, name: 'Leads' };
    const budget = { kind: 'budget', id: ids.budget, name: 'All' };
    expect(await usesOf(db, 'channel', ids.used)).to.deep.equal([route]);
    expect(await usesOf(db, 'channel', ids.lonely)).to.deep.equal([]);
    expect(await usesOf(db, 'route', ids.route), 'the budget, not its alarm as well').to.deep.equal([budget]);
    expect(await usesOf(db, 'alarm', ids.alarm)).to.deep.equal([budget]);
    expect(await usesOf(db, 'account', 1)).to.deep.equal([route]);
    for (const kind of ['rota', 'person', 'group', 'account', 'alarm'] as const)
      expect(await usesOf(db, kind, 999), kind).to.deep.equal([]);
  });

  it('is told of what uses a response, a summary, a derived metric and a board', async () => {
    const { db, clock, secrets } = house.bussola;
    const author = { at: clock.now(), by: 'Kaja' };
    const kaja = await insertPerson(db, {
      ...{
        name: 'kaja',
        displayName: 'Kaja',
        role: 'administrator',
        passwordHash: '',
        zone: 'UTC',
        createdAt: clock.now()
      }
    });
    const hook = draftOf({ kind: 'webhook', name: 'desk', address: 'http://127.0.0.1:9/desk', mode: 'structured' });
    const desk = await insertChannel(db, secrets, hook, { ...author, personId: null });
    const response = responseSchema.parse({
      ...{ name: 'Tell the desk', alarmId: ids.alarm, from: 'minor', heldMinutes: 5, limits: usualLimits },
      action: { kind: 'webhook', channelId: desk.id }
    });
    const answer = { kind: 'response', id: (await insertResponse(db, response, { ...author, personId: kaja.id })).id };
    const plan = { name: 'Week', kind: 'week', at: '08:00', zone: 'UTC', channels: [desk.id] };
    const stored = await insertPlan(db, summaryPlanSchema.parse(plan), null, author);
    expect(await usesOf(db, 'channel', desk.id)).to.deep.equal([
      { ...answer, name: 'Tell the desk' },
      { kind: 'summary', id: stored.id, name: 'Week' }
    ]);
    expect((await usesOf(db, 'alarm', ids.alarm)).at(-1)).to.deep.equal({ ...answer, name: 'Tell the desk' });
    expect(names((await unused()).channels), 'what a response calls is of use').to.deep.equal(['lonely']);
    const until = after(clock.now(), times(1, hour));
    const { id: linkId } = await makeLink(db, ids.board, {}, until, 'Kaja', clock.now());
    const link = { kind: 'link', id: linkId, name: 'made by Kaja' };
    expect(await usesOf(db, 'board', ids.board)).to.deep.equal([link]);
    expect((await unused()).links, 'it is still good').to.deep.equal([]);
    house.clock.pass(61);
    const expired = { id: linkId, name: 'Machines, by Kaja', at: until };
    expect((await unused()).links).to.deep.equal([expired]);
    expect(await forgetExpiredLink(db, linkId, instant(0)), 'not before').to.equal(false);
    expect(await forgetExpiredLink(db, linkId, clock.now())).to.equal(true);
    expect((await unused()).links).to.deep.equal([]);
    for (const kind of ['derived', 'signal', 'board'] as const)
      expect(await usesOf(db, kind, 999), kind).to.deep.equal([]);
  });

  it('lists channels without a route, and metrics that nothing picks, with what they cost', async () => {
    const { channels, metrics, boards, keys, people } = await unused();
    expect(names(channels)).to.deep.equal(['lonely']);
    expect(names(metrics).some((name) => name.startsWith('machine.'))).to.equal(true);
    expect(names(metrics)).to.not.include('machine.processor.use');
    expect(metrics.every(({ series, samplesADay }) => series > 0 && samplesADay >= series)).to.equal(true);
    expect(metrics.map(({ samplesADay }) => samplesADay)).to.deep.equal(
      metrics.map(({ samplesADay }) => samplesADay).sort((a, b) => b - a)
    );
    expect([boards, keys, people]).to.deep.equal([[], [], []]);
  });

  it('lists what was of no use for 90 days: boards that nobody opened, keys that nothing used', async () => {
    const { db, clock } = house.bussola;
    house.clock.pass(91 * 24 * 60);
    const found = await unused();
    expect(found.boards.map(({ title }) => title)).to.deep.equal(['Machines']);
    expect(names(found.keys)).to.deep.equal(['sensors']);
    const warned: unknown[] = [];
    const log = { warn: (...said: unknown[]) => void warned.push(said[1]) };
    const full = { rows: () => Promise.reject(new Error('no space left')) };
    await noteOpened({ db: full, clock, log }, ids.board);
    expect(warned, 'shown all the same').to.deep.equal(['that a board was opened could not be noted']);
    await noteOpened({ db, clock, log }, ids.board);
    expect((await unused()).boards).to.deep.equal([]);
    await db.rows('update people set disabled_at = $1 where name = $2', [clock.now(), 'oda']);
    expect((await unused()).people.length).to.equal(
      (await db.rows('select 1 from people where disabled_at is not null')).length
    );
  }).timeout(180_000);
});
