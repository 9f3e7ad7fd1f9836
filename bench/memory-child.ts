// A whole Bussola without its web server, with ten thousand live series; prints its resident megabytes at the end.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pointsOfLength } from '../src/lib/core/series';
import type { Instant } from '../src/lib/core/time';
import { configFrom } from '../src/lib/server/config';
import { startBussola } from '../src/lib/server/start';

const minute = 60_000;
const data = mkdtempSync(join(tmpdir(), 'bussola-memory-'));
const bussola = await startBussola(configFrom({ BUSSOLA_DATA: data, BUSSOLA_LOG: 'error' }), (error) => {
  throw error;
});
await bussola.store.ready;
for (let at = 0; at < 120; at++) {
  const blocks = Array.from({ length: 10_000 }, (_, i) => {
    const points = pointsOfLength(1);
    points.at[0] = at * minute;
    points.sum[0] = points.min[0] = points.max[0] = ((i * 31 + at * 7919) % 1000) / 10;
    points.count[0] = 1;
    return { seriesId: i + 1, points };
  });
  await bussola.store.append(1, (at * minute) as Instant, blocks);
  if (at % 30 === 29)
    await bussola.store.samples.seal(
      { receivedBefore: ((at - 29) * minute) as Instant, mostPoints: 300_000 },
      (at * minute) as Instant
    );
}
globalThis.gc?.();
console.log(Math.round(process.memoryUsage().rss / 1e6));
await bussola.close();
rmSync(data, { recursive: true });
process.exit(0);
