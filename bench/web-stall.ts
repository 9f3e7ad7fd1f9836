import { monitorEventLoopDelay } from 'node:perf_hooks';
import { alignSeries, noPoints, pointsOfLength } from '../src/lib/core/series';
import { answerOf, plainSignal, type Signal, type Source, type Worked } from '../src/lib/core/signal';
import type { AlarmDefinition } from '../src/lib/core/alarm';
import { duration, gridOver, instant, range, textFromInstant, type Instant, type Range } from '../src/lib/core/time';
import { Catalogue } from '../src/lib/server/query/catalogue/catalogue';
import { Changes } from '../src/lib/server/base/changes';
import { answerQueries, answerQuery, queriesSchema, querySchema } from '../src/lib/server/query/query';
import { Head } from '../src/lib/server/store/head';
import { QueryQueue } from '../src/lib/server/query/query-queue';
import { insertAlarm } from '../src/lib/server/alarms/alarms';
import { startEngineThread } from '../src/lib/server/engine/engine-thread';
import { onEachHome, type Home } from './homes';
import type { Measurement } from './measurement';

const metrics = 1000;
const seriesOfEach = 50;
const signals = 24;
const minutes = 13 * 24 * 60;
const dayMinutes = 1440;
const rounds = 4;

/**
 * The longest stall of the web process' event loop while a person works: a query over 13 days, a board of 24 signals, the catalogue of 50,000 series read anew and
 * searched, a pick matched, alarms rehearsed and judged, bands drawn; against the query alone computed in the web process itself.
 */
export const webStall = (): Promise<Measurement[]> => onEachHome(measure);

async function measure({ name, db, connection }: Home): Promise<Measurement> {
  await fillWorkspace(db);
  const { store, evaluator, judging } = startEngineThread(connection);
  await store.ready;
  const changes = new Changes();
  const end = instant(minutes * 60_000);
  const server = { db, evaluator, changes, clock: { now: () => end }, queryQueue: new QueryQueue() };
  const head = new Head();
  for (let id = 1; id <= signals * seriesOfEach; id++) {
    // One metric has all thirteen days, those of the board the last.
    const from = id <= seriesOfEach ? 0 : minutes - dayMinutes;
    const points = pointsOfLength(minutes - from);
    for (let i = 0; i < points.at.length; i++) {
      points.at[i] = (from + i) * 60_000;
      points.sum[i] = ((i * id * 7919) % 120_000) / 100;
      points.min[i] = points.max[i] = points.sum[i] as number;
      points.count[i] = 1;
    }
    await store.append(1, instant(0), [{ seriesId: id, points }]);
    if (from === 0) head.take([{ seriesId: id, points }]);
  }
  await store.samples.seal({ receivedBefore: end, mostPoints: 0 }, end);

  const catalogue = new Catalogue(server);
  const signal = (metric: string): Signal => plainSignal({ metric, statistic: 'avg' });
  const whole = { from: textFromInstant(instant(0)), to: textFromInstant(end) };
  const lastDay = { from: textFromInstant(instant(end - 86_400_000)), to: whole.to };
  const query = querySchema.parse({ signal: signal('metric.0'), ...whole });
  const board = queriesSchema.parse({
    signals: Array.from({ length: signals }, (_, i) => signal(`metric.${i}`)),
    ...lastDay,
    cells: 700
  });
  const steps: Record<string, () => Promise<unknown>> = {
    'a query over 13 days': () => answerQuery(server, query),
    'a board': () => answerQueries(server, board),
    'the catalogue': async () => {
      const before = await catalogue.search();
      changes.tell('account', { accountId: 1 });
      while ((await catalogue.search()) === before) await new Promise((next) => setTimeout(next, 5));
    },
    typing: async () => {
      for (const text of ['d', 'de', 'dep', 'depth', 'queue dpeth', 'part-3'])
        (await catalogue.search()).find({ text });
    },
    'a pick': () => evaluator.matched({ metric: 'metric.*', where: [{ label: 'part', is: ['part-3'] }] })
  };
  const alarm: AlarmDefinition = {
    name: 'Deep',
    signal: signal('metric.0'),
    rule: {
      levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 1100, clear: 900 } }],
      window: { needs: 3, of: 5 },
      whenMissing: 'indeterminate',
      zone: 'UTC'
    },
    ...{ enabled: true, labels: {}, owner: '', about: '', runbook: '', route: null }
  };
  for (let i = 0; i < signals; i++)
    await insertAlarm(db, { ...alarm, name: `Deep ${i}`, signal: signal(`metric.${i}`) }, 'bench', end);
  steps['a rehearsal'] = async () => judging.rehearse(end, { alarm, days: 12, zone: 'UTC', id: null, propose: true });
  steps['alarms judged'] = async () => {
    while ((await judging.judgeDue(end, 'bench', 'all')).more);
  };
  steps['anomaly bands'] = async () =>
    judging.bands(end, {
      signal: plainSignal({ metric: 'metric.0', statistic: 'avg', where: [{ label: 'part', is: ['part-3'] }] }),
      range: range(instant(end - 86_400_000), end),
      step: duration(300_000),
      widths: 5
    });
  const stalls: [string, number][] = [];
  for (const [what, work] of Object.entries(steps)) stalls.push([what, await longestStall(work)]);
  const series = sourcesHere();
  const span = range(instant(0), end);
  const theirs = await longestStall(() =>
    Promise.resolve(
      new TextEncoder().encode(
        JSON.stringify(answerOf(workedHere(head, series, span), 0, instant(0), new Map(), new Map()))
      )
    )
  );
  await store.close();
  const told = stalls.map(([what, ms]) => `${what} ${ms.toFixed(1)} ms`).join(', ');
  return {
    name: 'web.stall',
    unit: 'ms, longest stall of the event loop',
    better: 'lower',
    ours: Math.max(...stalls.map(([, ms]) => ms)),
    theirs,
    alternative: 'the query over 13 days worked out and written as JSON in the web process itself',
    note: `on ${name}: ${rounds} times each: ${told}; ${metrics * seriesOfEach} series in the catalogue, ${signals} signals of ${seriesOfEach} series on the board; the goal is 50 ms`
  };
}

async function fillWorkspace(db: Home['db']): Promise<void> {
  await db.rows(
    `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
     values ('large', 'levante', 'x', 'k', '', 1, 'bench', 1)`
  );
  await db.rows(
    `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
     select 1, 'r' || i, 'machine-' || i, 'machine', 'machines', 'perla-' || i % 3, '{"team": "web"}', 1, 1
     from generate_series(1, $1::integer) as i`,
    [seriesOfEach]
  );
  await db.rows(
    `insert into metrics (provider, name, title, description, unit, kind, shape, resource_type, service, sampling_ms, delay_ms)
     select 'levante', 'metric.' || i, 'Queue depth ' || i, 'How deep the queue is, as part ' || i || ' tells.', '1', 'gauge', 'single', 'machine', 'machines', 60000, 0
     from generate_series(0, $1::integer) as i`,
    [metrics - 1]
  );
  await db.rows(
    `insert into series (account_id, resource_id, metric, labels)
     select 1, resource, 'metric.' || metric, jsonb_build_object('part', 'part-' || resource)
     from generate_series(0, $1::integer) as metric, generate_series(1, $2::integer) as resource
     order by metric, resource`,
    [metrics - 1, seriesOfEach]
  );
}

const sourcesHere = (): Source[] =>
  Array.from({ length: seriesOfEach }, (_, i) => ({
    id: i + 1,
    labels: { account: 'large', region: 'r', resource: `machine-${i}` },
    kind: 'gauge',
    unit: '1',
    samplingMs: 60_000
  }));

/** What the store's thread does, here. */
function workedHere(head: Head, series: readonly Source[], span: Range): Worked {
  const grid = gridOver(span, duration(60_000));
  const columns = series.map(({ id, labels }) => ({
    labels,
    seriesId: id,
    values: alignSeries(head.pointsOf(id) ?? noPoints(), grid, 'avg'),
    newest: head.newest(id) as Instant | null,
    completeUntil: Infinity
  }));
  const effort = { series: series.length, points: 0, resolution: 0, milliseconds: 0 };
  return { kind: 'worked', grid, rows: [{ name: 'a', unit: '1', isRatio: false, columns }], notes: [], effort };
}

async function longestStall(work: () => Promise<unknown>): Promise<number> {
  await work(); // once unmeasured, so that neither pays for being compiled
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  for (let i = 0; i < rounds; i++) {
    await work();
    await new Promise((next) => setImmediate(next));
  }
  delay.disable();
  return delay.max / 1e6;
}
