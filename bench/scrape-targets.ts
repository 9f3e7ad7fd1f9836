import { fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { launchApp } from '../tests/support/app';
import { hashPassword } from '../src/lib/server/people/passwords';
import { insertPerson } from '../src/lib/server/people/people';
import { instant } from '../src/lib/core/time';
import { readExposition } from '../src/lib/core/openmetrics';
import { writeStored } from '../src/lib/core/forms/stored';
import { targetsForm, targetsSchema } from '../src/lib/core/targets';
import { insertAccount } from '../src/lib/server/inventory/accounts';
import { pagesProvider } from '../src/lib/server/inventory/self-described';
import type { Measurement } from './measurement';

const targets = 1000;
const everySeconds = 15;
/** Rounds of all pages before it is measured, and while it is. */
const [settling, measured] = [3, 8];

/**
 * Reading 1,000 OpenMetrics pages of 40 series every 15 s by one process with its embedded database: processor time of a round of all pages, against pages that are read
 * eight at a time and written a row a sample. With it, the share of pages of which reading began within a second of when it was due, and the memory of the process.
 */
export async function scrapeTargets(): Promise<Measurement> {
  const pages = await startPages();
  const app = await launchApp({ env: { BUSSOLA_CLOCK_FILE: '', BUSSOLA_LOG: 'error' } });
  try {
    // eslint-disable-next-line no-restricted-syntax -- the process that is measured goes by the machine’s clock
    const now = instant(Date.now());
    await insertPerson(app.db, {
      ...{ name: 'kaja', displayName: 'Kaja Tamm', mail: 'kaja@example.test', role: 'administrator' },
      ...{ passwordHash: await hashPassword('corallo-demo'), zone: 'UTC', createdAt: now }
    });
    await insertAccount(app.db, {
      ...{
        name: 'many',
        provider: pagesProvider,
        endpoint: pages.url,
        keyId: 'nothing',
        sealedSecret: Buffer.alloc(0)
      },
      ...{ createdAt: now, createdBy: 'bench', historyFrom: now },
      settings: writeStored(
        targetsForm,
        targetsSchema.parse({ find: { by: 'http', url: `${pages.url}/pages.json` }, everySeconds })
      )
    });
    const wait = (rounds: number): Promise<void> =>
      new Promise((resolve) => setTimeout(resolve, rounds * everySeconds * 1000));
    await wait(settling);
    const read = () => metricsOf(app.origin);
    const before = await read();
    const cpuBefore = processorSeconds(app.process.pid ?? 0);
    await wait(measured);
    const cpu = processorSeconds(app.process.pid ?? 0) - cpuBefore;
    const after = await read();
    const more = (name: string): number => (after.get(name) ?? 0) - (before.get(name) ?? 0);
    const count = more('bussola_pages_total');
    const alternative = await rowByRow(pages.url);
    return {
      name: 'scrape.targets',
      unit: 's of processor time a round',
      better: 'lower',
      ours: cpu / measured,
      theirs: alternative,
      alternative: 'eight pages at a time, a row a sample',
      note: `${targets} pages of 40 series every ${everySeconds} s for ${measured} rounds; ours is the whole process with its database, judging, sealing and rollups`,
      more: {
        pages: count,
        expected: targets * measured,
        failed: more('bussola_pages_failed_total'),
        onTime: 1 - more('bussola_pages_late_total') / Math.max(1, count),
        cores: cpu / (measured * everySeconds),
        megabytes: (after.get('bussola_memory_bytes') ?? 0) / 1e6,
        samplesASecond: more('bussola_samples_total') / (measured * everySeconds),
        longestBlock: after.get('bussola_loop_block_seconds') ?? 0
      }
    };
  } finally {
    await app.stop();
    pages.process.kill();
  }
}

/** A server of pages in a process of its own. */
async function startPages(): Promise<{ url: string; process: ChildProcess }> {
  const child = fork('bench/pages-server.ts', [String(targets)], { execArgv: ['--import', 'tsx'] });
  const [port] = (await once(child, 'message')) as [number];
  return { url: `http://127.0.0.1:${port}`, process: child };
}

/** What Bussola says of itself, by the names of its samples. */
async function metricsOf(origin: string): Promise<Map<string, number>> {
  const signedIn = await fetch(`${origin}/sign-in`, {
    ...{ method: 'POST', redirect: 'manual' },
    headers: { 'content-type': 'application/x-www-form-urlencoded', origin, accept: 'text/html' },
    body: new URLSearchParams({ name: 'kaja', password: 'corallo-demo' })
  });
  const cookie = signedIn.headers.getSetCookie()[0]?.split(';')[0] ?? '';
  const { samples } = readExposition(await (await fetch(`${origin}/metrics`, { headers: { cookie } })).text());
  return new Map(samples.map(({ name, value }) => [name, value]));
}

/** Processor time of a process, all its threads, s. */
function processorSeconds(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** Processor time of reading all pages once and writing a row a sample, in a process of its own over the same kind of database, s. */
async function rowByRow(url: string): Promise<number> {
  const child = fork('bench/row-by-row.ts', [url, String(targets)], { execArgv: ['--import', 'tsx'] });
  const [seconds] = (await once(child, 'message')) as [number];
  return seconds;
}
