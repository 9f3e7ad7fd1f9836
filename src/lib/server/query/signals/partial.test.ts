import { expect } from 'chai';
import { withHouse } from '../../../../../tests/support/bussola';
import { readingAt } from '../../../core/receive/received';
import type { QueryAnswer } from '../../../core/series';
import { signalSchema, type Signal } from '../../../core/signal';
import { minute, textFromInstant, type Instant } from '../../../core/time';
import { answerQueries, answerQuery } from '../query';
import { keyByText, makeKey, type Key } from '../../intake/receive/keys';
import { storeReceived } from '../../intake/receive/receive';

describe('cells of which some series have not arrived', () => {
  const house = withHouse();
  const keys: Key[] = [];

  before(async () => {
    const { db, clock } = house.bussola;
    for (const name of ['one', 'two', 'three']) {
      const made = {
        name,
        expiresAt: null,
        mostSeries: 10,
        mostBytesADay: 1e9,
        createdAt: clock.now(),
        createdBy: 'test'
      };
      keys.push((await keyByText(db, (await makeKey(db, made)).text, clock.now())) as Key);
    }
  });

  const send = (key: Key, ago: number, value: number) =>
    storeReceived(house.bussola, key, {
      series: [
        {
          resource: { id: key.name, name: key.name, tags: {} },
          metric: { name: 'served', description: '', unit: '1', kind: 'gauge' },
          labels: {},
          weight: 1,
          points: [readingAt(house.clock.now() - ago * minute, value)],
          starts: [null]
        }
      ],
      refused: [],
      faults: []
    });
  const signal = (more: object = {}, row: object = {}): Signal =>
    signalSchema.parse({
      version: 2,
      step: 'PT1M',
      rows: [{ name: 'a', metric: 'served', statistic: 'avg', ...row }],
      ...more
    });
  const span = () => ({
    from: textFromInstant((house.clock.now() - 4 * minute) as Instant),
    to: textFromInstant(house.clock.now()),
    zone: 'UTC',
    values: 'numbers' as const
  });
  const ask = async (asked: Signal): Promise<QueryAnswer> =>
    JSON.parse(Buffer.from(await answerQuery(house.bussola, { signal: asked, ...span() })).toString()) as QueryAnswer;

  it('a sum is complete as far as all its parts are; what is further is there, and said to be partial', async () => {
    for (const [index, key] of keys.entries()) for (const ago of [4, 3, 2]) await send(key, ago, 10 * (index + 1));
    house.clock.pass(1);
    for (const key of keys.slice(0, 2)) await send(key, 2, 10);
    for (const key of keys.slice(0, 2)) await send(key, 1, 10);
    const sum = signal({}, { combine: { statistic: 'sum', by: [] } });
    const answer = await ask(sum);
    expect(answer.series[0]!.values).to.deep.equal([60, 60, 20, 20]);
    expect([answer.complete, answer.series[0]!.complete, answer.partial]).to.deep.equal([4, 2, { missing: 1, of: 3 }]);
    const [together] = JSON.parse(
      Buffer.from(await answerQueries(house.bussola, { signals: [sum], ...span() })).toString()
    ) as QueryAnswer[];
    expect(together?.partial).to.deep.equal({ missing: 1, of: 3 });

    await send(keys[2] as Key, 2, 30);
    await send(keys[2] as Key, 1, 30);
    const later = await ask(sum);
    expect(later.series[0]!.values).to.deep.equal([60, 60, 50, 50]);
    expect([later.series[0]!.complete, later.partial]).to.deep.equal([4, null]);
  });

  it('each series for itself is complete as far as it has come, and is ranked by that', async () => {
    house.clock.pass(1);
    await send(keys[0] as Key, 1, 5);
    const answer = await ask(signal({ limit: { keep: 1, order: 'highest', by: 'last', rest: 'leave out' } }));
    expect(answer.series.map(({ resource }) => resource)).to.deep.equal(['three']);
    const all = await ask(signal());
    const complete = Object.fromEntries(all.series.map((series) => [series.resource, series.complete]));
    expect(complete).to.deep.equal({ one: 4, two: 3, three: 3 });
  });
});
