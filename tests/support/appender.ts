// Appends batches and seals them until it is killed. At its start it examines the store and prints `has N of M, F findings`: N values stand without a gap from the first on,
// M there are in all. Then it prints `kept K` for each one that was acknowledged.
import { range, duration, type Instant } from '../../src/lib/core/time';
import { pointsOfLength } from '../../src/lib/core/series';
import { startEmbedded } from '../../src/lib/server/db/embedded';
import { openFolder } from '../../src/lib/server/db/folder';
import { knownVersion, migrate } from '../../src/lib/server/db/migrate';
import { openPool } from '../../src/lib/server/db/pool';
import { examine } from '../../src/lib/server/store/doctor';
import { openStore } from '../../src/lib/server/store/open-store';

const folder = openFolder(process.argv[2] ?? '', knownVersion());
const { connection } = await startEmbedded(folder);
const db = openPool(connection, 1);
await migrate(db);
const store = openStore(connection);
await store.ready;

const accountId = 1;
const step = duration(60_000);
const span = range(0 as Instant, (100_000 * step) as Instant);
const { id: seriesId } = await series();
const { columns } = await store.samples.frame([seriesId], span, step, 'sum');
const values = columns[0]!.values;
let next = 0;
while (values[next] === next * 3 + 1) next++; // the right value in every cell up to the first gap
const found = values.reduce((count, value) => count + (Number.isNaN(value) ? 0 : 1), 0);
const { findings } = await examine(db);
for (const { what } of findings) process.stderr.write(`${what}\n`);
process.stdout.write(`has ${next} of ${found}, ${findings.length} findings\n`);

void sealOnAndOn();
for (let k = next; ; k++) {
  const points = pointsOfLength(1);
  points.at[0] = k * step;
  points.sum[0] = points.min[0] = points.max[0] = k * 3 + 1;
  points.count[0] = 1;
  await store.append(accountId, 0 as Instant, [{ seriesId, points }]);
  process.stdout.write(`kept ${k}\n`);
}

async function sealOnAndOn(): Promise<void> {
  for (;;) await store.samples.seal({ receivedBefore: 0 as Instant, mostPoints: 3 }, 1 as Instant);
}

/** The one series of the one account, made the first time. */
async function series(): Promise<{ id: number }> {
  const known = await db.rows<{ id: number }>('select id from series');
  if (known[0]) return known[0];
  await db.rows(
    `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
     values ('one', 'levante', 'x', 'x', '', 0, 'x', 0)`
  );
  await db.rows(
    `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
     values (1, 'r', 'r', 'machine', 'machines', 'x', '{}', 0, 0)`
  );
  await db.rows(`insert into series (account_id, resource_id, metric) select account_id, id, 'm' from resources`);
  return series();
}
