import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { insertAccount, ownProvider } from '../src/lib/server/inventory/accounts';
import { resourceMetrics } from '../src/lib/core/reachability';
import { secretBox } from '../src/lib/server/base/secrets';
import { startApp } from '../tests/support/app';
import { until } from '../tests/support/until';
import { largeProvider, seriesCount } from './large-provider';
import type { Measurement } from './measurement';

/** Goal of the resident memory with ten thousand live series, MB. */
const goal = 400;
const minutes = 120;

/**
 * Megabytes resident with ten thousand live series: the built application as people run it, with its web server and embedded database, pulling them from a provider over
 * HTTP for two hours of a minute each. The highest of what was seen after each minute counts.
 */
export async function processMemory(): Promise<Measurement[]> {
  const provider = await largeProvider();
  const app = await startApp();
  try {
    const now = app.clock.now();
    await insertAccount(app.db, {
      name: 'large',
      provider: 'levante',
      endpoint: provider.url,
      keyId: 'k',
      sealedSecret: secretBox(join(app.data, 'data')).seal('s'),
      createdAt: now,
      createdBy: 'bench',
      historyFrom: now
    });
    await until(
      'the first pull',
      async () => {
        const [row] = await app.db.rows<{ at: number | null }>('select max(last_success_at) as at from collections');
        return row?.at;
      },
      120_000
    );
    const seen: number[] = [];
    for (let at = 0; at < minutes; at++) {
      await app.live(1);
      seen.push(residentOf(app.process.pid as number));
    }
    const [kept] = await app.db.rows<{ count: number }>(
      // Besides what Bussola measures of the account and of its resources itself.
      `select count(*) as count
       from series_spans
       join accounts on accounts.id = series_spans.account_id
       join series on series.account_id = series_spans.account_id and series.id = series_spans.series_id
       where provider <> $1 and metric <> all ($2::text[])`,
      [ownProvider, Object.values(resourceMetrics)]
    );
    if (kept?.count !== seriesCount) throw new Error(`process.memory: ${kept?.count} series were sealed`);
    return [
      {
        name: 'process.memory',
        unit: 'MB resident',
        better: 'lower',
        ours: Math.max(...seen),
        theirs: goal,
        alternative: `the goal of ${goal} MB`,
        note: `${seriesCount} series, ${minutes} minutes of one point each, pulled, kept and sealed by the built application; ${seen.at(-1)} MB at the end`
      }
    ];
  } finally {
    await app.stop();
    provider.close();
  }
}

/** Resident memory of a process, MB. */
function residentOf(pid: number): number {
  const [, kilobytes] = /^VmRSS:\s+(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8')) ?? [];
  return Math.round(Number(kilobytes) / 1000);
}
