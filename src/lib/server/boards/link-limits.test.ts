import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import type { Board } from '$lib/core/board';
import { plainSignal } from '$lib/core/signal';
import type { Queryable } from '../db/pool';
import { countMiss, countUse } from './link-limits';
import { sharedQueries } from './shared';

describe('what one link may be asked for', () => {
  it('is 240 requests a minute, each link by itself', async () => {
    for (let i = 0; i < 240; i++) await countUse(1);
    const refused: unknown = await countUse(1).catch((error: unknown) => error);
    expect(refused).to.be.instanceOf(Refusal).with.property('status', 429);
    await countUse(2);
  });

  it('and 60 links that are not there, from one address', async () => {
    for (let i = 0; i < 60; i++) await countMiss('192.0.2.7');
    expect(await countMiss('192.0.2.7').catch((error: unknown) => error)).to.be.instanceOf(Refusal);
    await countMiss('192.0.2.8');
  });

  const panel = (id: string) => ({
    id,
    title: id,
    picture: 'lines',
    signal: plainSignal({ metric: 'queue.depth', statistic: 'avg' }),
    place: { x: 0, y: 0, w: 6, h: 4 }
  });
  const board = { title: 'Queues', pickers: [], sections: [], panels: [panel('a'), panel('b')] } as unknown as Board;
  const nothing: Queryable = { rows: () => Promise.resolve([]) };
  const asking = async (times: number, from: string) => {
    const asks = Array.from({ length: times }, () => ({ panel: 'a', column: 0 }));
    const to = '2026-05-04T00:00:00Z';
    const answer: unknown = await sharedQueries(
      nothing,
      { board, choices: {} },
      { asks, spans: undefined, from, to, cells: 100, zone: 'UTC', values: 'numbers' }
    ).catch((error: unknown) => error);
    return answer instanceof Refusal ? answer.message : 'taken';
  };

  it('is each signal of its board a few times together, over a quarter of a year', async () => {
    expect(await asking(6, '2026-05-03T00:00:00Z')).to.equal('taken');
    expect(await asking(7, '2026-05-03T00:00:00Z')).to.equal(
      'More is asked for than the board shows: 7 signals, 6 at most.'
    );
    expect(await asking(1, '2026-01-31T00:00:00Z')).to.equal('taken');
    expect(await asking(1, '2026-01-30T00:00:00Z')).to.equal('A link shows 93 days at most.');
  });
});
