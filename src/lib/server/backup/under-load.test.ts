import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { connect, processorAlarm, stressMachine, withHouse } from '../../../../tests/support/bussola';
import { freshPostgres } from '../../../../tests/support/database';
import { everythingIn } from '../../../../tests/support/everything';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { examineAll } from '../doctor/examine-all';
import { openSecrets } from '../doctor/open-secrets';
import { openPool, type Database } from '../db/pool';
import { backUp, openEmbedded } from './back-up';
import { restoreBackup } from './file/restore-backup';

const quiet = () => undefined;

describe('a backup of a whole Bussola', () => {
  const house = withHouse();
  let folder: string;
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'bussola-backup-'));
    await connect(house, 'corallo-prod');
    await processorAlarm(house, 'gate-api-1');
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  const backedUp = async (name: string): Promise<string> => {
    const { databaseUrl } = house.bussola.config;
    const data = join(house.data, 'data');
    const source =
      databaseUrl === null
        ? { connection: { host: data, user: 'postgres', database: 'postgres' }, database: join(data, 'database') }
        : { connection: { connectionString: databaseUrl }, database: null };
    const file = join(folder, name);
    const about = { bussola: '0.1.0', madeAt: house.clock.now() };
    await backUp(source, file, join(folder, 'work'), about, quiet);
    return file;
  };
  /** The homes that a backup is restored to: a folder, and a server where there is one. */
  const restored = async (file: string, look: (db: Database) => Promise<void>): Promise<void> => {
    const at = join(folder, 'restored');
    const embedded = await openEmbedded(at);
    try {
      await restoreBackup(embedded.db, file, quiet);
      await look(embedded.db);
    } finally {
      await embedded.close();
      rmSync(at, { recursive: true });
    }
    const url = await freshPostgres({ migrated: false });
    if (url === null) return;
    const server = openPool({ connectionString: url }, 1);
    await restoreBackup(server, file, quiet);
    await look(server);
    await server.close();
  };

  it('while it is in use is that of one moment: nothing is wrong with what is restored', async () => {
    stressMachine(house, 'gate-api-1', 95, 30);
    let isDone = false;
    let minutes = 0;
    const living = (async () => {
      while (!isDone) {
        house.clock.pass(1);
        const at = house.clock.now();
        minutes++;
        await until('the pull', async () => {
          const [row] = await house.bussola.db.rows<{ at: number }>('select min(last_pull_at) as at from collections');
          return (row?.at ?? 0) >= at;
        });
      }
    })();
    await until('some minutes', () => minutes > 4);
    const before = minutes;
    const file = await backedUp('busy.tar.gz');
    await until('more minutes', () => minutes > before);
    isDone = true;
    await living;
    await restored(file, async (db) => {
      const { findings, batches, chunks } = await examineAll(db);
      expect(findings).to.deep.equal([]);
      expect(batches + chunks).to.be.greaterThan(0);
      expect(await db.rows('select name from accounts where provider = $1', ['levante'])).to.deep.equal([
        { name: 'corallo-prod' }
      ]);
    });
  }).timeout(300_000);

  it('has every row, and the numbers of new ones go on behind those of all that there have been', async () => {
    const { db } = house.bussola;
    await db.rows(`insert into teams (name, created_at, created_by) values ('gone', 1, 'test'), ('there', 1, 'test')`);
    await db.rows(`delete from teams where name = 'there'`);
    const file = await backedUp('quiet.tar.gz');
    const expected = await everythingIn(db, restless);
    expect(Object.values(expected).filter((rows) => rows.length > 0)).to.have.length.greaterThan(10);
    await restored(file, async (other) => {
      const found = await everythingIn(other, restless);
      expect(found).to.deep.equal(expected);
      const [team] = await other.rows<{ id: number }>(
        `insert into teams (name, created_at, created_by) values ('new', 1, 'test') returning id`
      );
      expect(team?.id).to.equal(3);
      // What watches over rows watches again.
      expect(
        await refusalOrError(other.rows(`insert into team_members (team_id, person_id) values (99, 99)`))
      ).to.contain('foreign key');
      expect(await refusalOrError(other.rows('truncate acts'))).not.to.equal('');
    });
  }).timeout(300_000);

  it('has secrets that open with their key alone, which it does not have', async () => {
    const file = await backedUp('secret.tar.gz');
    await restored(file, async (db) => {
      const [without, with_] = [join(folder, 'without'), join(folder, 'with')].map((at) => {
        cpSync(join(house.data, 'data', 'key'), join(at, 'key'), { recursive: true });
        return at;
      });
      rmSync(join(without!, 'key'));
      expect((await refusalOf(openSecrets(db, without!, null)))?.code).to.equal('secrets-key');
      const another = Buffer.alloc(32, 7).toString('base64');
      expect((await refusalOf(openSecrets(db, without!, another)))?.message).to.contain('corallo-prod');
      const box = await openSecrets(db, with_!, null);
      const [account] = await db.rows<{ secret: Buffer }>(
        `select secret_sealed as secret from accounts where provider = 'levante'`
      );
      expect(box.open(account!.secret)).to.equal('demo-only-2f9c61d07be84a35');
      expect(readFileSync(file).includes(readFileSync(join(house.data, 'data', 'key')))).to.equal(false);
    });
  }).timeout(300_000);
});

/** What a process at rest writes: that it can. */
const restless = ['health_probe'];

const refusalOrError = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => '',
    (error: Error) => error.message
  );
