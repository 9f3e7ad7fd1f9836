import { execFile } from 'node:child_process';
import {
  chownSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { freshPostgres, hasPostgres } from '../../../../tests/support/database';
import { everythingIn } from '../../../../tests/support/everything';
import { openEmbedded } from '../backup/back-up';
import { secretBox } from '../base/secrets';
import { startEmbedded } from '../db/embedded';
import { openFolder } from '../db/folder';
import { knownVersion, migrate } from '../db/migrate';
import { openPool } from '../db/pool';

/** As it is built, where it is: compiling it takes longer than what it does. */
const built = 'build/workers/data.js';
const program = existsSync(built) ? [built] : ['--import', 'tsx', 'src/lib/server/process/data.ts'];

describe('backup, restore and move from a shell', () => {
  let folder: string;
  const at = (name: string): string => join(folder, name);
  const run = (args: readonly string[], env: Readonly<Record<string, string>> = {}) =>
    new Promise<{ code: number; out: string; err: string }>((done) => {
      const { PATH = '' } = process.env;
      execFile(process.execPath, [...program, ...args], { env: { PATH, ...env } }, (error, out, err) =>
        done({ code: error === null ? 0 : Number(error.code), out, err })
      );
    });
  const inFolder = async (path: string): Promise<Record<string, string[]>> => {
    const { db, close } = await openEmbedded(path);
    const all = await everythingIn(db);
    await close();
    return all;
  };
  let expected: Record<string, string[]>;
  before(async function () {
    this.timeout(240_000);
    folder = mkdtempSync(join(tmpdir(), 'bussola-data-'));
    const opened = openFolder(at('one'), knownVersion());
    const embedded = await startEmbedded(opened);
    const db = openPool(embedded.connection);
    await migrate(db);
    opened.markVersion();
    const secret = secretBox(at('one')).seal('s3cret');
    await db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from, settings)
       values ('corallo-prod', 'levante', 'http://127.0.0.1:1/levante', 'KEY', $1, 5, 'Kaja Tamm', 5, '{}')`,
      [secret]
    );
    for (let n = 0; n < 400; n++)
      await db.rows(`insert into teams (name, created_at, created_by) values ($1, $2, 'ünïcode')`, [`team ${n}`, n]);
    expected = await everythingIn(db);
    await db.close();
    await embedded.close();
    opened.release();
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  it('gives everything back in another folder, with its key', async () => {
    const backup = await run(['backup', '--data', at('one'), '--to', at('b.tar.gz'), '--key-to', at('b.key')]);
    expect([backup.code, backup.err]).to.deep.equal([0, '']);
    expect(backup.out).to.match(/Writes .*\d+ rows of \d+ tables in .*b\.tar\.gz/s);
    expect([statSync(at('b.tar.gz')).mode & 0o777, statSync(at('b.key')).mode & 0o777]).to.deep.equal([0o600, 0o600]);
    const other = await run(['backup', '--data', at('one'), '--to', at('other.tar.gz')]);
    expect([other.code, other.err]).to.deep.equal([0, '']);
    expect(other.out).to.contain(`opens with the key in ${join(at('one'), 'key')} alone`);
    const restored = await run(['restore', '--data', at('two'), '--from', at('b.tar.gz'), '--key', at('b.key')]);
    expect([restored.code, restored.err]).to.deep.equal([0, '']);
    expect(restored.out).to.match(/Its secrets open with this key\.\nNothing is wrong with it\.\n/);
    expect(readdirSync(at('two')).sort()).to.deep.equal(['database', 'key', 'version']);
    expect(readFileSync(join(at('two'), 'version'), 'utf8').trim()).to.equal(String(knownVersion()));
    expect(await inFolder(at('two'))).to.deep.equal(expected);
  }).timeout(240_000);

  it('says that secrets do not open without their key, and restores all else', async () => {
    const without = await run(['restore', '--data', at('three'), '--from', at('b.tar.gz')]);
    expect(without.code).to.equal(1);
    expect(without.out).to.contain('! The key of the secrets is missing: 1 credential is sealed with it.');
    expect(await inFolder(at('three'))).to.deep.equal(expected);
  }).timeout(240_000);

  it('refuses what is there already, what is no backup, and what it does not know, and leaves all as it was', async () => {
    const over = await run(['restore', '--data', at('two'), '--from', at('b.tar.gz')]);
    expect([over.code, over.err]).to.deep.equal([
      2,
      `There are data in ${at('two')} already.\nName another folder: --data FOLDER, or BUSSOLA_DATA. Nothing in it was changed.\n`
    ]);
    writeFileSync(at('half.tar.gz'), readFileSync(at('b.tar.gz')).subarray(0, 3000));
    const half = await run(['restore', '--data', at('four'), '--from', at('half.tar.gz')]);
    expect([half.code, half.err]).to.deep.equal([
      2,
      `${at('half.tar.gz')} cannot be read as a backup: it was cut short, or changed.\nTake another backup. Nothing was changed.\n`
    ]);
    expect(readdirSync(at('four'))).to.deep.equal([]);
    expect((await run(['backup', '--data', at('one'), '--to', at('b.tar.gz')])).err).to.contain('is there already');
    expect((await run(['backup', '--data', at('none')])).err).to.contain(`There are no data in ${at('none')}`);
    expect(existsSync(at('none'))).to.equal(false);
    if (process.getuid?.() === 0) {
      chownSync(at('three'), 12345, 12345);
      const foreign = await run(['backup', '--data', at('three'), '--to', at('foreign.tar.gz')]);
      expect(foreign.err).to.contain(`The data folder ${at('three')} belongs to another user (12345).`);
    }
    for (const args of [['restore'], ['what']]) expect([args, (await run(args)).code]).to.deep.equal([args, 2]);
    expect(await inFolder(at('two'))).to.deep.equal(expected);
  }).timeout(240_000);

  // Where there is a server: npm test runs this file with one and without.
  if (hasPostgres)
    it('moves to a server and back without loss', async () => {
      const url = (await freshPostgres({ migrated: false })) ?? '';
      const there = await run(['move', '--data', at('one'), '--to', url]);
      expect([there.code, there.err]).to.deep.equal([0, '']);
      expect(there.out).to.contain('Set DATABASE_URL to that database');
      const again = await run(['move', '--data', at('one'), '--to', url]);
      expect(again.err).to.match(/^The database is not empty/);
      const server = openPool({ connectionString: url }, 1);
      expect(await everythingIn(server)).to.deep.equal(expected);
      const meanwhile = await run(['move', '--data', at('one'), '--to', at('five')], { DATABASE_URL: url });
      expect(meanwhile.err).to.contain('other connections use the database');
      await server.close();
      const back = await run(['move', '--data', at('one'), '--to', at('five')], { DATABASE_URL: url });
      expect([back.code, back.err]).to.deep.equal([0, '']);
      expect(await inFolder(at('five'))).to.deep.equal(expected);
    }).timeout(300_000);
});
