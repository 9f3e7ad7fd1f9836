import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { alignSeries, noPoints, pointsOfLength } from '../src/lib/core/series';
import { plainSignal, type Source } from '../src/lib/core/signal';
import { duration, gridOver, instant, range, type Range } from '../src/lib/core/time';
import { startEmbedded } from '../src/lib/server/db/embedded';
import { openFolder } from '../src/lib/server/db/folder';
import { knownVersion, migrate } from '../src/lib/server/db/migrate';
import { openPool } from '../src/lib/server/db/pool';
import { answerOf } from '../src/lib/server/store/answer';
import { Head } from '../src/lib/server/store/head';
import { openStore } from '../src/lib/server/store/open-store';
import type { Worked } from '../src/lib/server/store/work';
import type { Measurement } from './measurement';

const seriesCount = 70;
const minutes = 14 * 24 * 60;
const queries = 8;

/** The longest stall of the web process' event loop while heavy queries run in the store's thread, against the same queries in the web process itself. */
export async function webStall(): Promise<Measurement> {
  const folder = openFolder(mkdtempSync(join(tmpdir(), 'bussola-bench-')), knownVersion());
  const embedded = await startEmbedded(folder);
  const db = openPool(embedded.connection, 2);
  await migrate(db);
  const store = openStore(embedded.connection);
  await store.ready;
  const head = new Head();
  const series = Array.from({ length: seriesCount }, (_, i): Source => ({
    id: i + 1,
    labels: { account: 'a', region: 'r', resource: `m${i}` },
    kind: 'gauge',
    unit: '1',
    samplingMs: 60_000
  }));
  for (const { id } of series) {
    const points = pointsOfLength(minutes);
    for (let i = 0; i < minutes; i++) {
      points.at[i] = i * 60_000;
      points.sum[i] = ((i * id * 7919) % 120_000) / 100;
      points.count[i] = 12;
    }
    await store.append(1, instant(0), [{ seriesId: id, points }]);
    head.take([{ seriesId: id, points }]);
  }
  const span = range(instant(0), instant(minutes * 60_000));
  const step = duration(60_000);
  const signal = plainSignal({ metric: 'm', statistic: 'avg' });
  const work = { signal, sources: { a: series }, notes: [], completeUntil: instant(0) };
  const ours = await longestStall(async () => {
    const bytes = await store.samples.answer(work, span, step, 'UTC', instant(0), new Map(), 'json');
    if (!(bytes instanceof Uint8Array) || bytes.byteLength < 1_000_000)
      throw new Error('web.stall: the answer is too small to be heavy');
  });
  const theirs = await longestStall(() =>
    Promise.resolve(
      new TextEncoder().encode(JSON.stringify(answerOf(workedHere(head, series, span), 0, instant(0), new Map())))
    )
  );
  await store.close();
  await db.close();
  await embedded.close();
  folder.release();
  rmSync(folder.path, { recursive: true });
  return {
    name: 'web.stall',
    unit: 'ms, longest stall of the event loop',
    better: 'lower',
    ours,
    theirs,
    alternative: 'the same queries evaluated and written as JSON in the web process itself',
    note: `${queries} queries, one after the other, of ${seriesCount} series over 14 days at one-minute steps (${(seriesCount * minutes).toLocaleString('en')} cells each)`
  };
}

/** What the store's thread does, here. */
function workedHere(head: Head, series: readonly Source[], span: Range): Worked {
  const grid = gridOver(span, duration(60_000));
  const columns = series.map(({ id, labels }) => ({
    labels,
    seriesId: id,
    values: alignSeries(head.pointsOf(id) ?? noPoints(), grid, 'avg'),
    newest: head.newest(id),
    completeUntil: Infinity
  }));
  const effort = { series: series.length, points: 0, resolution: 0, milliseconds: 0 };
  return { kind: 'worked', grid, rows: [{ name: 'a', unit: '1', isRatio: false, columns }], notes: [], effort };
}

async function longestStall(query: () => Promise<unknown>): Promise<number> {
  await query(); // once unmeasured, so that neither pays for being compiled
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  for (let i = 0; i < queries; i++) {
    await query();
    await new Promise((next) => setImmediate(next));
  }
  delay.disable();
  return delay.max / 1e6;
}
