// Appends lines, seals them and removes others whose time is over, until it is killed. At its start it examines what is stored and prints `has N of M, F findings`: lines 0 to N−1 are there once each, M there are in all. Then it prints
// `kept K` for each one that was acknowledged.
import { encodeBatch, noOrigin } from '../../src/lib/core/logs';
import { after, before, day, instant, range, times } from '../../src/lib/core/time';
import { startEmbedded } from '../../src/lib/server/db/embedded';
import { openFolder } from '../../src/lib/server/db/folder';
import { knownVersion, migrate } from '../../src/lib/server/db/migrate';
import { openPool } from '../../src/lib/server/db/pool';
import { examineLines } from '../../src/lib/server/logs/doctor';
import { openLogs } from '../../src/lib/server/logs/open-logs';
import { lineAt } from './lines';

const folder = openFolder(process.argv[2] ?? '', knownVersion());
const { connection } = await startEmbedded(folder);
const db = openPool(connection, 1);
await migrate(db);
const client = openLogs(connection);
await client.ready;
const { logs } = client;

await db.rows(
  `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
   values ('one', 'pushed', '', '', '', 0, '', 0)
   on conflict do nothing`
);
const [account] = await db.rows<{ id: number }>('select id from accounts');
const { findings } = await examineLines(db);
for (const what of findings) process.stderr.write(`${what}\n`);
const texts = await stored();
let next = 0;
while (texts[next] === `line ${next}`) next++;
process.stdout.write(`has ${next} of ${texts.length}, ${findings.length} findings\n`);

void sealOnAndOn();
void removeOnAndOn();
for (let k = next; ; k++) {
  const batch = encodeBatch(noOrigin, [lineAt(k, `line ${k}`)]);
  const one = { accountId: account?.id ?? 0, service: 'functions', stream: `stream ${k % 3}`, resourceId: null, batch };
  // One that is stored no longer than until it is looked for what is due.
  const old = { ...lineAt(k, `old ${k}`), at: before(lineAt(k, '').at, times(40, day)) };
  const due = { ...one, stream: 'old', batch: encodeBatch(noOrigin, [old]) };
  await logs.append(instant(0), [one, due]);
  process.stdout.write(`kept ${k}\n`);
}

/** The texts of all lines, the earliest first. */
async function stored(): Promise<string[]> {
  const { at } = lineAt(0, '');
  const ticket = await logs.search({
    ...{ text: '', range: range(instant(0), instant(at + 1e9)), most: 1_000_000, step: 1e12, accounts: null },
    resources: new Map()
  });
  if (ticket === null) throw new Error('too many searches are under way');
  for (;;) {
    const progress = await logs.progress(ticket);
    if (progress === null) throw new Error('the search is gone');
    if (progress.isDone)
      return progress.lines
        .map(({ text }) => text)
        .filter((text) => !text.startsWith('old'))
        .reverse();
  }
}

async function sealOnAndOn(): Promise<void> {
  for (;;) await logs.seal(instant(1), { lines: 3, waits: 1e12, all: 20, bytes: 1e9 });
}

async function removeOnAndOn(): Promise<void> {
  const now = after(lineAt(0, '').at, day);
  for (;;) await logs.retain(now);
}
