import type { Page } from 'playwright-core';
import { startApp, type RunningApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { until } from '../tests/support/until';
import type { Measurement } from './measurement';

/** Days of history that are fetched. */
const days = 14;
/** Questions of each kind, while history fills and once it is filled. */
const rounds = 60;
const goals = { board: 500, bench: 300 };

const signal = (metric: string, statistic = 'avg') => ({
  version: 2,
  rows: [{ name: 'a', metric, where: [], statistic }],
  step: 'PT1M'
});
/** What a board of machines and databases asks at once. */
const board = [
  signal('machine.processor.use'),
  signal('machine.memory.use'),
  signal('machine.network.in'),
  signal('machine.disk.writes'),
  signal('machine.filesystem.use', 'last'),
  signal('database.connections.use', 'max'),
  signal('database.read.latency'),
  signal('queue.depth', 'max')
];

/** How long a board’s queries and a change on the bench take while the history of all accounts is fetched, against the same once it is there: the 95th percentile of each. */
export async function uiWhileFilling(): Promise<Measurement[]> {
  const app = await startApp({ accounts: true, days });
  const browser = await openBrowser();
  try {
    const { page } = await signedIn(browser, app, 'nerea');
    await page.context().addInitScript('globalThis.__name = (of) => of');
    await until(
      'samples to ask for',
      async () => (await app.db.rows('select 1 from journal limit 1')).length > 0,
      60_000
    );
    const filling = await asked(page, app);
    const left = await hoursLeft(app);
    if (left === 0) throw new Error('ui.while-filling: history was filled before it was measured');
    await until('history to be filled', async () => (await hoursLeft(app)) === 0, 600_000);
    const filled = await asked(page, app);
    const one = (kind: 'board' | 'bench', what: string): Measurement => ({
      name: kind === 'board' ? 'ui.while-filling' : 'ui.while-filling.bench',
      unit: 'ms, 95th percentile',
      better: 'lower',
      ours: highOf(filling[kind]),
      theirs: highOf(filled[kind]),
      alternative: 'the same once history is filled',
      note: `${what}, ${rounds} times, ${days} days of history of all accounts, ${Math.round(left)} h of it still to come at the end; goal ${goals[kind]} ms`
    });
    return [
      one('board', `${board.length} signals of a board over 3 h`),
      one('bench', 'a change of a signal on the bench')
    ];
  } finally {
    await browser.close();
    await app.stop();
  }
}

/** Milliseconds that each question took, as the browser sees it. Every one requests something else, so that none is answered from what the one before it left. */
async function asked(page: Page, { origin, clock }: RunningApp): Promise<{ board: number[]; bench: number[] }> {
  await page.goto(`${origin}/healthz`);
  return page.evaluate(
    async ({ board, now, rounds }) => {
      const took = { board: [] as number[], bench: [] as number[] };
      const ask = async (path: string, body: object): Promise<number> => {
        const began = performance.now();
        const response = await fetch(path, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body)
        });
        if (!response.ok) throw new Error(await response.text());
        await response.arrayBuffer();
        return performance.now() - began;
      };
      for (let round = 0; round < rounds; round++) {
        const to = now - round * 60_000;
        const span = { from: new Date(to - 10_800_000).toISOString(), to: new Date(to).toISOString() };
        took.board.push(await ask('/api/v1/queries', { signals: board, ...span, values: 'packed' }));
        const rows = [
          { name: 'a', metric: 'machine.processor.use', where: [], statistic: 'avg' },
          { name: 'b', formula: `a * ${round + 1}` }
        ];
        took.bench.push(
          await ask('/api/v1/query', { signal: { version: 2, rows, step: 'PT1M' }, ...span, cells: 700 })
        );
      }
      return took;
    },
    { board, now: clock.now(), rounds }
  );
}

/** Hours of history that are still to be fetched, over all services that can be fetched: the demo lacks the right to read one. */
async function hoursLeft({ db }: RunningApp): Promise<number> {
  const [row] = await db.rows<{ hours: number }>(
    `select coalesce(sum(to_at - from_at), 0)::double precision / 3600000 as hours
     from gaps
     join collections using (account_id, service)
     where kind = 'history' and last_error is null`
  );
  return row?.hours ?? 0;
}

const highOf = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.ceil(values.length * 0.95) - 1] as number;
