import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import { everythingIn } from '../../../../tests/support/everything';
import { refusalOf } from '../../../../tests/support/refusal';
import { type Database } from '../db/pool';
import { backUp, openEmbedded } from './back-up';
import { restoreBackup } from './file/restore-backup';
import { linesOf, storeStatement, tablesOf, writePlainly } from './file/tables';

const quiet = () => undefined;

describe('a backup', () => {
  const fixture = withDatabase();
  let folder: string;
  before(() => (folder = mkdtempSync(join(tmpdir(), 'bussola-backup-'))));
  after(() => rmSync(folder, { recursive: true, force: true }));

  const about = { bussola: '0.1.0', madeAt: 1_700_000_000_000 };
  const made = async (name: string) => {
    const database = 'host' in fixture.connection ? fixture.folder.database : null;
    const file = join(folder, name);
    return {
      file,
      ...(await backUp({ connection: fixture.connection, database }, file, join(folder, 'work'), about, quiet))
    };
  };
  before(async () => {
    const { db } = fixture;
    await db.rows(`insert into teams (name, created_at, created_by) values ('odd one', 5, 'test')`);
    await db.rows(
      'create table odd (id bigint primary key generated always as identity, flag boolean, small smallint, amount numeric, ratio double precision, single real, body bytea, words text, list integer[], texts text[], thing jsonb, letter json, day date, moment timestamptz, twice bigint generated always as (id * 2) stored)'
    );
    const text = fc.string({ unit: 'grapheme', maxLength: 12 }).map((one) => one.replaceAll('\0', ''));
    const nullable = <T>(one: fc.Arbitrary<T>) => fc.option(one, { freq: 6 });
    const row = fc.tuple(
      ...[nullable(fc.boolean()), nullable(fc.integer({ min: -32768, max: 32767 }))],
      nullable(fc.tuple(fc.bigInt(), fc.nat(999)).map(([whole, part]) => `${whole}.${part}`)),
      nullable(fc.double()),
      nullable(fc.float()),
      nullable(fc.uint8Array({ maxLength: 60 }).map((bytes) => Buffer.from(bytes))),
      nullable(text),
      nullable(fc.array(nullable(fc.integer({ min: -5, max: 5 })), { maxLength: 4 })),
      nullable(fc.array(nullable(text), { maxLength: 4 })),
      // The null of JSON is not that of the database.
      nullable(fc.jsonValue({ maxDepth: 2 }).map((one) => JSON.stringify(one).replaceAll('\\u0000', ''))),
      nullable(fc.constantFrom('null', '{"a" : 1, "a":2}', ' [1.10, -0]')),
      nullable(fc.constantFrom('2024-02-29', 'infinity', '0044-03-15 BC')),
      nullable(fc.constantFrom('2026-03-29 01:30:00+00', '-infinity', '1999-12-31 23:59:59.999999+11'))
    );
    for (const values of fc.sample(row, 400))
      await db.rows(
        'insert into odd (flag, small, amount, ratio, single, body, words, list, texts, thing, letter, day, moment) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)',
        values
      );
  });

  it('has the values of all types of columns to the letter', async () => {
    const [odd] = (await tablesOf(fixture.db)).filter(({ name }) => name === 'odd');
    const before = (await everythingIn(fixture.db))['odd'];
    const lines: string[] = [];
    await fixture.db.transaction(async (within) => {
      await writePlainly(within);
      for await (const some of linesOf(within, odd!)) lines.push(...some);
      await within.rows('truncate odd');
      await within.rows(storeStatement(odd!), [`[${lines.join(',')}]`]);
    });
    expect(lines).to.have.length(400);
    expect((await everythingIn(fixture.db))['odd']).to.deep.equal(before);
    await fixture.db.rows('drop table odd');
  });

  describe('that is damaged, or another’s', () => {
    let good: Buffer;
    const given = (name: string, bytes: Buffer): string => {
      const file = join(folder, name);
      writeFileSync(file, bytes);
      return file;
    };
    let empty: Database;
    let close: () => Promise<void>;
    before(async () => {
      good = readFileSync((await made('good.tar.gz')).file);
      ({ db: empty, close } = await openEmbedded(join(folder, 'refused')));
    });
    after(() => close());
    /** Why it is refused, and that the database is as empty as before. */
    const refusedFor = async (file: string): Promise<string> => {
      const refusal = await refusalOf(restoreBackup(empty, file, quiet));
      expect(await tablesOf(empty), file).to.deep.equal([]);
      return refusal === null ? 'not refused' : `${refusal.code}: ${refusal.message}`;
    };

    it('is refused where it was cut short, wherever', async () => {
      for (const share of [0, 0.6, 1 - 1 / good.length])
        expect(
          await refusedFor(given('short.tar.gz', good.subarray(0, Math.floor(good.length * share)))),
          String(share)
        ).to.match(/^backup-unreadable: .*(cut short|begin)/);
    }).timeout(240_000);

    it('is refused where a byte of it is another, or a row', async () => {
      const turned = Buffer.from(good);
      turned[Math.floor(good.length / 2)]! ^= 1;
      expect(await refusedFor(given('turned.tar.gz', turned))).to.match(/^backup-unreadable: .*changed/);
      // One that its packing does not tell.
      const text = gunzipSync(good).toString('latin1');
      const other = (from: string, to: string): Buffer => gzipSync(Buffer.from(text.replace(from, to), 'latin1'));
      expect(await refusedFor(given('row.tar.gz', other('"name":"odd one"', '"name":"odd two"')))).to.match(
        /^backup-differs: teams is not as it was: 1 rows of 1, with other values/
      );
    }).timeout(240_000);

    it('is refused where it is of a newer Bussola, or has tables that there are none of', async () => {
      const text = gunzipSync(good).toString('latin1');
      const other = (from: string | RegExp, to: string): Buffer =>
        gzipSync(Buffer.from(text.replace(from, to), 'latin1'));
      expect(await refusedFor(given('newer.tar.gz', other(/"migration": \d\d/, '"migration": 99')))).to.match(
        /^newer-data: .*version is 99/
      );
      expect(await refusedFor(given('format.tar.gz', other('"format": 1', '"format": 2')))).to.match(/^newer-data/);
      expect(await refusedFor(given('table.tar.gz', other('"teams"', '"steam"')))).to.match(
        /^backup-unreadable: .*other tables than that: steam, teams/
      );
      expect(await refusedFor(given('text.tar.gz', Buffer.from('not a backup')))).to.match(/^backup-unreadable/);
      expect(await refusedFor(join(folder, 'none.tar.gz'))).to.match(/^backup-unreadable: .*is not there/);
    }).timeout(240_000);

    it('is never restored over something', async () => {
      const file = given('over.tar.gz', good);
      const refusal = await refusalOf(restoreBackup(fixture.db, file, quiet));
      expect(refusal?.code).to.equal('database-taken');
    });
  });
});
