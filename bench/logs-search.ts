import { instant, range } from '../src/lib/core/time';
import type { Database } from '../src/lib/server/db/pool';
import type { LogClient } from '../src/lib/server/logs/open-logs';
import { onEachHome } from './homes';
import { arriving, begin, day, worldLines } from './lines';
import { sealNow, withLogs } from './logs-home';
import { middleOf, type Measurement } from './measurement';

/** While lines are written: those of long streams at once, those of short ones together. */
const sealSome = { lines: 16_384, waits: 40 * day, all: 400_000, bytes: 256_000_000 };

/** How many lines are searched. */
const searched = Number(process.env['BUSSOLA_BENCH_LINES'] ?? 10_000_000);

/** Lines of the demo, many times as many, sealed; in about one of 100,000 stands a word that is nowhere else. */
async function fill(
  logs: LogClient['logs'],
  accountId: number,
  db: Database | null
): Promise<{ from: number; to: number }> {
  const usual = 2_000_000;
  const to = begin + 14 * day;
  let count = 0;
  for (let from = begin; from < to; from += day / 4)
    for (const { stream, lines } of worldLines(from, from + day / 4, searched / usual)) {
      const marked = lines.map((line) =>
        count++ % 100_000 === 77_777 ? { ...line, text: `${line.text} kraken` } : line
      );
      for (let at = 0; at < marked.length; at += 4000)
        await logs.append(instant(begin), [arriving(accountId, stream, marked.slice(at, at + 4000))]);
      await logs.seal(instant(begin), sealSome);
      if (db !== null)
        await db.rows(
          'insert into plain_lines (stream, at, severity, text) select $1, * from unnest($2::bigint[], $3::integer[], $4::text[])',
          [stream, marked.map(({ at }) => at), marked.map(({ severity }) => severity), marked.map(({ text }) => text)]
        );
    }
  await logs.seal(instant(begin + 60 * day), sealNow);
  return { from: begin, to };
}

/** How long a search takes until the first lines are there, and until all is looked at, s. */
async function timed(logs: LogClient['logs'], text: string, from: number, to: number) {
  const began = performance.now();
  const ticket = await logs.search({
    ...{ text, range: range(instant(from), instant(to)), most: 50, step: 3 * 3_600_000, accounts: null },
    resources: new Map()
  });
  if (ticket === null) throw new Error('too many searches are under way');
  let first = Infinity;
  for (;;) {
    const progress = await logs.progress(ticket);
    const seconds = (performance.now() - began) / 1000;
    if (progress === null) throw new Error('the search is gone');
    if (progress.lines.length >= 50) first = Math.min(first, seconds);
    if (progress.isDone) return { first: Math.min(first, seconds), all: seconds, count: progress.count };
  }
}

let search: Promise<Measurement[]> | null = null;

/** A word in one of 100,000 lines, or the histogram of all lines by severity, among ten million: both are measured on the same lines, once. */
export const logsSearch = async (name: 'logs.search.rare' | 'logs.search.common'): Promise<Measurement[]> =>
  (await (search ??= searches())).filter((one) => one.name === name);

async function searches(): Promise<Measurement[]> {
  const all = await onEachHome((home) =>
    withLogs(home, async ({ logs }, accountId): Promise<Measurement[]> => {
      const isServer = home.name === 'PostgreSQL';
      await home.db.rows('create table plain_lines (stream text, at bigint, severity integer, text text)');
      const { from, to } = await fill(logs, accountId, home.db);
      if (isServer) {
        await home.db.rows('create extension if not exists pg_trgm');
        await home.db.rows('create index on plain_lines using gin (text gin_trgm_ops)');
        await home.db.rows('analyze plain_lines');
      }
      const resident = [process.memoryUsage().rss / 1e6];
      const rare = [];
      for (let round = 0; round < 5; round++) rare.push(await timed(logs, 'kraken', from, to));
      const common = [];
      for (let round = 0; round < 5; round++) common.push(await timed(logs, 'severity >= info', from, to));
      resident.push(process.memoryUsage().rss / 1e6);
      const theirs = await secondsOf(() =>
        home.db.rows(`select * from plain_lines where text ilike '%kraken%' order by at desc limit 50`)
      );
      const theirBars = await secondsOf(() =>
        home.db.rows('select (at - $1::bigint) / 10800000 as bar, severity, count(*) from plain_lines group by 1, 2', [
          from
        ])
      );
      const where = `${rare[0]?.count} of ${searched} lines; on ${home.name}`;
      return [
        {
          name: 'logs.search.rare',
          unit: 's to the first page',
          better: 'lower',
          ours: middleOf(rare.map(({ first }) => first)),
          theirs,
          alternative: isServer ? 'ilike on rows with a trigram index' : 'ilike on rows',
          more: { 'all of it': middleOf(rare.map((one) => one.all)), 'the first time': rare[0]?.first ?? NaN },
          note: where
        },
        {
          name: 'logs.search.common',
          unit: 's to the whole histogram',
          better: 'lower',
          ours: middleOf(common.map((one) => one.all)),
          theirs: theirBars,
          alternative: 'group by over rows',
          more: {
            'the first time': common[0]?.all ?? NaN,
            'MB resident once all is stored': resident[0] ?? NaN,
            'MB resident after ten searches': resident[1] ?? NaN
          },
          note: `severity >= info, 112 bars; on ${home.name}`
        }
      ];
    })
  );
  return all.flat();
}

async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}
