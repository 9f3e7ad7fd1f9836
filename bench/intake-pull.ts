import { Readers } from '../src/lib/server/base/readers';
import { pino } from 'pino';
import { instant, range, type Instant } from '../src/lib/core/time';
import { soleDuties } from '../src/lib/server/duties/duties';
import { Changes } from '../src/lib/server/base/changes';
import { Disk } from '../src/lib/server/base/disk';
import { insertAccount } from '../src/lib/server/inventory/accounts';
import { discoverAccount } from '../src/lib/server/intake/pull/discover';
import { outboundTo } from '../src/lib/server/providers/port/outbound';
import { accessOf, Guards, type Intake } from '../src/lib/server/intake/ledger/intake';
import { levanteProvider } from '../src/lib/server/providers/levante/levante';
import { pullService } from '../src/lib/server/intake/pull/pull';
import { SeriesBook } from '../src/lib/server/inventory/series-book';
import { wantedOf } from '../src/lib/server/intake/pull/requested';
import { accountById } from '../src/lib/server/inventory/accounts';
import { secretBox } from '../src/lib/server/base/secrets';
import { openStore } from '../src/lib/server/store/open-store';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { onEachHome, type Home } from './homes';
import { largeProvider, seriesCount } from './large-provider';
import { inTurn, type Measurement } from './measurement';

const minutesAPull = 5;
const minute = 60_000;
const rounds = 5;

/** Samples a second from a provider's answer to committed, 10,000 series, against the same answers written a row a sample. */
export const intakePull = (): Promise<Measurement[]> => onEachHome(measure);

async function measure(home: Home): Promise<Measurement> {
  const { db } = home;
  const server = await largeProvider();
  let now = instant(1_777_881_600_000);
  const clock = { now: () => now };
  const secrets = secretBox(mkdtempSync(join(tmpdir(), 'bussola-bench-')));
  const store = openStore(home.connection);
  await store.ready;
  const intake: Intake = {
    db,
    clock,
    store,
    disk: new Disk(null, 0),
    secrets,
    providers: { levante: levanteProvider(clock) },
    guards: new Guards(outboundTo(['127.0.0.1']), { perSecond: 10_000, burst: 10_000 }),
    book: new SeriesBook(db),
    changes: new Changes(),
    duties: soleDuties('bench'),
    readers: new Readers(),
    log: pino({ level: 'error' })
  };
  const { id } = await insertAccount(db, {
    name: 'large',
    provider: 'levante',
    endpoint: server.url,
    keyId: 'k',
    sealedSecret: secrets.seal('s'),
    createdAt: now,
    createdBy: 'bench',
    historyFrom: now
  });
  await discoverAccount(intake, id);
  await pullService(intake, id, 'machines');
  const account = (await accountById(db, id))!;
  await db.rows(
    'create table plain (series text, at bigint, sum double precision, count double precision, min double precision, max double precision, primary key (series, at))'
  );
  const later = () => (now = (now + minutesAPull * minute) as Instant);
  const rowByRow = async () => {
    const from = now;
    later();
    const { prompt } = await wantedOf(db, account, 'machines');
    for await (const { series } of intake.providers['levante']!.fetch(
      await accessOf(intake, account),
      prompt.resources,
      range(from, now)
    )) {
      const rows = series.flatMap(({ resource, metric, points }) =>
        Array.from(points.at, (at, i) => [
          `${resource}/${metric}`,
          at,
          points.sum[i],
          points.count[i],
          points.min[i],
          points.max[i]
        ])
      );
      await db.rows(
        'insert into plain select * from unnest($1::text[], $2::bigint[], $3::double precision[], $4::double precision[], $5::double precision[], $6::double precision[]) on conflict do nothing',
        Array.from({ length: 6 }, (_, column) => rows.map((row) => row[column]))
      );
    }
  };
  const seconds = await inTurn(
    rounds,
    async () => {
      later();
      if (!(await pullService(intake, id, 'machines'))) throw new Error('intake.pull: the pull failed');
    },
    rowByRow
  );
  await store.close();
  server.close();
  const samples = seriesCount * minutesAPull;
  return {
    name: 'intake.pull',
    unit: 'samples/s',
    better: 'higher',
    ours: samples / seconds.ours,
    theirs: samples / seconds.theirs,
    alternative: 'the same fetches, written as one row a sample by insert … select from unnest in the same database',
    note: `on ${home.name}: ${seriesCount} series, ${minutesAPull} minutes a pull, from the provider’s answer over HTTP to committed; ours asks for its overlap of four minutes again, and leaves out what it knows`
  };
}
