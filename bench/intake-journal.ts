import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pointsOfLength, type BatchBlock } from '../src/lib/core/series';
import { instant } from '../src/lib/core/time';
import { startEmbedded } from '../src/lib/server/db/embedded';
import { openFolder } from '../src/lib/server/db/folder';
import { knownVersion, migrate } from '../src/lib/server/db/migrate';
import { openPool, type Database } from '../src/lib/server/db/pool';
import { openStore } from '../src/lib/server/store/open-store';
import { inTurn, type Measurement } from './measurement';

const seriesCount = 500;
const minutesPerBatch = 20; // 10,000 points, a page of Levante
const batches = 20;
const samples = seriesCount * minutesPerBatch;

/** Durable samples a second through the store, against one row a sample in the same database. Both write the same points in as many transactions. */
export async function intakeJournal(): Promise<Measurement> {
  const path = mkdtempSync(join(tmpdir(), 'bussola-bench-'));
  const folder = openFolder(path, knownVersion());
  const embedded = await startEmbedded(folder);
  const db = openPool(embedded.connection, 2);
  await migrate(db);
  await db.rows(`
    create table plain_samples (
      series_id integer, at bigint, sum double precision, count double precision, min double precision, max double precision,
      primary key (series_id, at)
    )`);
  const store = openStore(embedded.connection);
  await store.ready;
  const work = Array.from({ length: batches }, (_, batch) => blocksOf(batch));
  const rows = work.map(columnsOf);
  let ourBatch = 0;
  let theirBatch = 0;
  const seconds = await inTurn(
    batches,
    () => store.append(1, instant(0), work[ourBatch++] ?? []),
    () => insertRows(db, rows[theirBatch++] ?? [])
  );
  await store.close();
  await db.close();
  await embedded.close();
  folder.release();
  rmSync(path, { recursive: true });
  return {
    name: 'intake.journal',
    unit: 'durable samples/s',
    better: 'higher',
    ours: samples / seconds.ours,
    theirs: samples / seconds.theirs,
    alternative:
      'one row a sample, insert … select from unnest, in the same embedded database, as many samples a transaction',
    note: `${batches} batches of ${samples} summary points (${seriesCount} series × ${minutesPerBatch} min), the middle batch of each; ours includes refusing known points and taking them into the head`
  };
}

function blocksOf(batch: number): BatchBlock[] {
  return Array.from({ length: seriesCount }, (_, seriesId) => {
    const points = pointsOfLength(minutesPerBatch);
    for (let i = 0; i < minutesPerBatch; i++) {
      points.at[i] = (batch * minutesPerBatch + i) * 60_000;
      points.sum[i] = (seriesId * 7919 + i * 31) % 1200;
      points.count[i] = 12;
      points.min[i] = 1;
      points.max[i] = 99;
    }
    return { seriesId, points };
  });
}

/** The same points as the columns of rows. */
function columnsOf(blocks: readonly BatchBlock[]): number[][] {
  const column = (name: 'at' | 'sum' | 'count' | 'min' | 'max') => blocks.flatMap(({ points }) => [...points[name]]);
  const ids = blocks.flatMap(({ seriesId, points }) => Array.from(points.at, () => seriesId));
  return [ids, column('at'), column('sum'), column('count'), column('min'), column('max')];
}

async function insertRows(db: Database, columns: readonly number[][]): Promise<void> {
  await db.rows(
    `insert into plain_samples
     select * from unnest($1::integer[], $2::bigint[], $3::double precision[], $4::double precision[], $5::double precision[], $6::double precision[])`,
    columns
  );
}
