// Appends batches until it is killed. Prints `has N` with the batches found at its start, then `kept K` for each one that was acknowledged.
import { range, duration, type Instant } from '../../src/lib/core/time';
import { pointsOfLength } from '../../src/lib/core/series';
import { startEmbedded } from '../../src/lib/server/db/embedded';
import { openFolder } from '../../src/lib/server/db/folder';
import { knownVersion, migrate } from '../../src/lib/server/db/migrate';
import { openPool } from '../../src/lib/server/db/pool';
import { openStore } from '../../src/lib/server/store/open-store';

const folder = openFolder(process.argv[2] ?? '', knownVersion());
const { connection } = await startEmbedded(folder);
const db = openPool(connection, 1);
await migrate(db);
const store = openStore(connection);
await store.ready;

const seriesId = 1;
const step = duration(60_000);
const span = range(0 as Instant, (100_000 * step) as Instant);
const { columns } = await store.samples.frame([seriesId], span, step, 'sum');
const values = columns[0]!.values;
let next = 0;
while (values[next] === next * 3 + 1) next++; // the right value in every cell up to the first gap
const found = values.reduce((count, value) => count + (Number.isNaN(value) ? 0 : 1), 0);
process.stdout.write(`has ${next} of ${found}\n`);

for (let k = next; ; k++) {
  const points = pointsOfLength(1);
  points.at[0] = k * step;
  points.sum[0] = points.min[0] = points.max[0] = k * 3 + 1;
  points.count[0] = 1;
  await store.append(1, 0 as Instant, [{ seriesId, points }]);
  process.stdout.write(`kept ${k}\n`);
}
