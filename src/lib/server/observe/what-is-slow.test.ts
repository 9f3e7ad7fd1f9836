import { expect } from 'chai';
import { withHouse, connectMachines, liveMinutes } from '../../../../tests/support/bussola';
import { instantFromText, textFromInstant } from '../../core/time';
import { SlowWork, slowWork } from '../base/slow-work';
import { insertBoard } from '../boards/boards';
import { answerQueries, answerQuery } from '../query/query';
import { whatIsSlow } from './what-is-slow';

describe('what is slow', () => {
  const house = withHouse();
  let accountId = 0;
  const signal = {
    version: 2 as const,
    rows: [{ name: 'a', metric: 'machine.processor.use', statistic: 'avg' as const, where: [] }],
    step: 'PT1M' as const
  };
  const query = () => ({
    ...{ from: textFromInstant(instantFromText('2026-05-04T13:00:00Z')), to: textFromInstant(house.clock.now()) },
    ...{ zone: 'UTC', values: 'numbers' as const }
  });
  const list = () => whatIsSlow(house.bussola, slowWork, 100_000, 'total');

  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
    await liveMinutes(house, accountId, 2);
  });

  it('names panels by their boards, other queries by what they show, and pulls by account and service', async () => {
    const panel = { id: 'a', title: 'Processor', picture: 'lines', signal, place: { x: 0, y: 0, w: 6, h: 4 } };
    const board = {
      title: 'Quay of slow boards',
      pickers: [],
      sections: [],
      panels: [panel, { ...panel, id: 'b', title: 'Again' }]
    };
    const { id } = await insertBoard(
      house.bussola.db,
      board as never,
      { id: null, displayName: 'Kaja' },
      house.clock.now()
    );
    const of = { board: id, panels: ['a', 'b', 'gone'] };
    await answerQueries(house.bussola, { ...query(), signals: [signal, signal, signal], of });
    await answerQuery(house.bussola, { ...query(), signal });
    const { panels, queries, pulls, statements } = await list();
    const own = panels.filter(({ path }) => path.startsWith(`/boards/${id}?`));
    expect(own.map(({ name, path, times }) => [name, path, times])).to.have.deep.members([
      ['Processor on Quay of slow boards', `/boards/${id}?panel=a`, 1],
      ['Again on Quay of slow boards', `/boards/${id}?panel=b`, 1]
    ]);
    expect(own.every(({ total, longest, mean }) => total > 0 && longest === total && mean === total)).to.equal(true);
    const asked = queries.find(({ path }) => path === `/bench?signal=${encodeURIComponent(JSON.stringify(signal))}`);
    expect(asked?.name).to.match(/^Average processor use of each machine/);
    const pull = pulls.find(({ name }) => name.startsWith('Machines of '));
    expect(pull?.path).to.equal(`/accounts/${accountId}`);
    expect(pull?.times).to.be.above(1);
    expect(statements.length).to.be.above(10);
    expect(statements.every(({ name }) => !/\s\s|\n/.test(name))).to.equal(true);
    // No value of a statement is remembered, only its text.
    expect(statements.some(({ name }) => name.includes('Quay of slow boards'))).to.equal(false);
  });

  it('remembers each of several queries that were answered together', async () => {
    const other = { ...signal, rows: [{ ...signal.rows[0], where: [{ label: 'resource', is: ['gate-api-1'] }] }] };
    const timesOf = async (one: object) =>
      (await list()).queries.find(({ path }) => path === `/bench?signal=${encodeURIComponent(JSON.stringify(one))}`)
        ?.times ?? 0;
    const [first, second] = [await timesOf(signal), await timesOf(other)];
    await answerQueries(house.bussola, { ...query(), signals: [signal, other] } as never);
    expect([await timesOf(signal), await timesOf(other)]).to.deep.equal([first + 1, second + 1]);
  });

  it('orders by the longest time where that is asked for, and says when that was', async () => {
    const slow = new SlowWork();
    for (let index = 0; index < 5; index++) slow.note('requests', 'GET /often', 10);
    slow.note('requests', 'GET /once', 30);
    const { requests } = await whatIsSlow(house.bussola, slow, 10, 'total');
    expect(requests.map(({ name, total }) => [name, total])).to.deep.equal([
      ['GET /often', 50],
      ['GET /once', 30]
    ]);
    const longest = await whatIsSlow(house.bussola, slow, 1, 'longest');
    expect(longest.requests.map(({ name, longest: ms }) => [name, ms])).to.deep.equal([['GET /once', 30]]);
    expect(house.clock.now() - (longest.requests[0]?.longestAt ?? 0)).to.be.within(0, 60_000);
  });
});
