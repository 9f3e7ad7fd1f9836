import { ObjectiveCourse, objectiveStep } from '../src/lib/core/objective';
import { pointsOfLength } from '../src/lib/core/series';
import { plainSignal } from '../src/lib/core/signal';
import { instant, range, type Instant } from '../src/lib/core/time';
import { saveMetrics } from '../src/lib/server/inventory/metrics';
import { ObjectiveCounts } from '../src/lib/server/objective/objective-counts';
import type { FoundMetric } from '../src/lib/server/providers/port/provider';
import { startQueryThread } from '../src/lib/server/query/query-thread';
import { onEachHome, type Home } from './homes';
import { accountOf } from './lines';
import { inTurn, type Measurement } from './measurement';

const day = 86_400_000;
const days = 366;
const resources = 5;
const cells = (days * day) / objectiveStep;
const begin = Date.UTC(2025, 10, 1);
const end = instant(begin + days * day);
const metrics = ['served.all', 'served.good'] as const;

/** How a promise over 30 days stood at the end of each of a year's cells of five minutes, of five resources, against SQL with a moving window over a row a sample. Nothing stays decoded or counted between rounds. */
export function objectiveYear(): Promise<Measurement[]> {
  return onEachHome(async (home) => {
    const { db } = home;
    const { store, evaluator } = startQueryThread(home.connection);
    await store.ready;
    await fill(home, store);
    const sum = (metric: string) => plainSignal({ metric, statistic: 'sum', step: 'PT5M' });
    const of = { kind: 'share', good: sum('served.good'), all: sum('served.all') } as const;
    const ours = async () => {
      await store.samples.forgetDecoded();
      const counts = new ObjectiveCounts({ db, clock: { now: () => end }, store, evaluator });
      const counted = await counts.counted(of, instant(begin));
      const promise = { targetPercent: 99.9, period: { kind: 'rolling' as const, days: 30 }, levels: [] };
      return new ObjectiveCourse(promise, counted).courseOver(range(instant(begin), end));
    };
    const theirs = () =>
      db.rows<{ cell: number; left: number }>(
        `with counted as (
           select at / ${objectiveStep} as cell, sum(value) filter (where metric = 'served.all') as all, sum(value) filter (where metric = 'served.good') as good
           from plain_samples group by 1)
         select cell, 1 - (sum("all") over moving - sum(good) over moving) / (sum("all") over moving * 0.001) as left
         from counted
         window moving as (order by cell range between ${(30 * day) / objectiveStep - 1} preceding and current row)
         order by cell`
      );
    const [course, rows] = [await ours(), await theirs()];
    for (const [index, { left }] of rows.entries())
      if (Math.abs((course.left[index] ?? NaN) - left) > 1e-6)
        throw new Error(`objective.year: cell ${index}: ${course.left[index]} is not ${left}.`);
    const seconds = await inTurn(5, ours, theirs);
    await store.close();
    return {
      name: 'objective.year',
      unit: 'ms',
      better: 'lower',
      ours: seconds.ours * 1000,
      theirs: seconds.theirs * 1000,
      alternative: `SQL with a moving window over a row a sample, in the same ${home.name}`,
      note: `${cells} cells of five minutes, 2 signals of ${resources} resources each: what was left of the error budget at the end of each cell`
    };
  });
}

async function fill({ db }: Home, store: ReturnType<typeof startQueryThread>['store']): Promise<void> {
  const account = await accountOf(db);
  const described: Omit<FoundMetric, 'name'> = {
    ...{ title: 'Served', description: '', unit: '1', kind: 'delta', shape: 'single', resourceType: 'web' },
    ...{ service: 'pushed', recommended: true, level: 'host', samplingMs: objectiveStep, delayMs: 0 }
  };
  await saveMetrics(
    db,
    'pushed',
    metrics.map((name) => ({ ...described, name })),
    account
  );
  await db.rows('create table plain_samples (metric text, resource integer, at bigint, value bigint)');
  for (let resource = 1; resource <= resources; resource++) {
    await db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values ($1, $2, $2, 'web', 'pushed', 'x', '{}', 0, $3)`,
      [account, `web-${resource}`, end]
    );
    for (const metric of metrics) {
      const [series] = await db.rows<{ id: number }>(
        'insert into series (account_id, resource_id, metric) select account_id, id, $1 from resources where name = $2 returning id',
        [metric, `web-${resource}`]
      );
      const points = pointsOfLength(cells);
      for (let i = 0; i < cells; i++) {
        points.at[i] = begin + i * objectiveStep;
        const bad = metric === 'served.good' ? (i * resource) % 3 : 0;
        points.sum[i] = points.min[i] = points.max[i] = 1000 - bad;
        points.count[i] = 1;
      }
      await store.append(account, begin as Instant, [{ seriesId: series?.id ?? 0, points }]);
      for (let first = 0; first < cells; first += 20_000)
        await db.rows(
          'insert into plain_samples select $1, $2, at, value from unnest($3::bigint[], $4::bigint[]) as given (at, value)',
          [
            metric,
            resource,
            [...points.at.subarray(first, first + 20_000)],
            [...points.sum.subarray(first, first + 20_000)]
          ]
        );
    }
    await store.samples.seal({ receivedBefore: end, mostPoints: 0 }, end);
  }
  await db.rows('analyze plain_samples');
}
