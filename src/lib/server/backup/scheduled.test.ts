import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { backupPlanSchema } from '../../core/backup';
import type { Connection } from '../db/pool';
import { readHealth } from '../observe/read-health';
import { Backups } from './backups';
import { backupById, listBackups, type BackupRecord } from './records';

describe('backups of a running Bussola', () => {
  const house = withHouse();
  const plan = (more: object = {}) =>
    backupPlanSchema.parse({
      ...{ enabled: true, every: 'day', weekday: 1, at: '02:30', zone: 'UTC', stay: 2, rehearse: 'week', ...more }
    });
  const files = (): string[] => {
    const { path } = house.bussola.backups.folder;
    return existsSync(path) ? readdirSync(path).sort() : [];
  };
  const connectionOf = (): Connection => {
    const { databaseUrl, data } = house.bussola.config;
    return databaseUrl === null
      ? { host: data, user: 'postgres', database: 'postgres' }
      : { connectionString: databaseUrl };
  };
  /** A backup or rehearsal that has ended. */
  const ended = async (id: number): Promise<BackupRecord> =>
    until('it has ended', async () => {
      const found = await backupById(house.bussola.db, id);
      return found !== null && found.state !== 'running' && found;
    });
  /** Whatever runs has ended, and what follows it. */
  const idle = () =>
    until('none runs', async () => {
      await house.bussola.backups.settled();
      return (await listBackups(house.bussola.db)).every(({ state }) => state !== 'running');
    });
  const figures = async () => {
    const read = await readHealth({ ...house.bussola }, house.clock.now());
    return [read.get('bussola.backup.overdue'), read.get('bussola.rehearsal.failed')];
  };

  it('are made by hand, one at a time, and rehearsed: nothing is wrong, and nothing is left but the file', async () => {
    const { backups } = house.bussola;
    const id = await backups.makeBackup('Kaja Tamm');
    expect((await refusalOf(backups.makeBackup('Kaja Tamm')))?.code).to.equal('in-use');
    expect((await refusalOf(backups.beginRehearsal(id, 'Kaja Tamm')))?.code).to.equal('not-found');
    const made = await ended(id);
    expect([made.state, made.problem]).to.deep.equal(['done', null]);
    expect(made.result?.rows).to.be.greaterThan(5);
    expect(files()).to.deep.equal([made.file]);
    await backups.settled();
    const rehearsal = await ended(await backups.beginRehearsal(id, 'Kaja Tamm'));
    expect([rehearsal.state, rehearsal.problem, rehearsal.result?.findings]).to.deep.equal(['done', null, []]);
    expect(rehearsal.result?.rows).to.equal(made.result?.rows);
    await backups.settled();
    expect(files()).to.deep.equal([made.file]);
    expect(await figures()).to.deep.equal([undefined, 0]);
  }).timeout(300_000);

  it('that are damaged fail their rehearsal, which is measured', async () => {
    const { backups, db } = house.bussola;
    const [made] = (await listBackups(db)).filter(({ kind }) => kind === 'backup');
    writeFileSync(join(backups.folder.path, made!.file!), 'not a backup any more');
    const rehearsal = await ended(await backups.beginRehearsal(made!.id, 'Kaja Tamm'));
    expect([rehearsal.state, rehearsal.problem?.code]).to.deep.equal(['failed', 'backup-unreadable']);
    expect(await figures()).to.deep.equal([undefined, 1]);
    await backups.settled();
    await backups.remove(made!.id);
    expect(files()).to.deep.equal([]);
    expect(await listBackups(db)).to.deep.equal([]);
  }).timeout(300_000);

  it('that are stopped, or whose process is killed, leave nothing', async () => {
    const { backups, db, clock } = house.bussola;
    const id = await backups.makeBackup('Kaja Tamm');
    await backups.stop(id);
    await backups.settled();
    expect((await ended(id)).state).to.equal('stopped');
    expect(files()).to.deep.equal([]);
    // Of another process, which ended without a word.
    const [other] = await db.rows<{ id: number }>(
      `insert into backups (kind, state, began_at, began_by, is_scheduled, file, seen_at)
       values ('backup', 'running', $1, 'x', true, 'bussola-2020-01-01T00-00-00Z.tar.gz', now() - interval '3 minutes') returning id`,
      [clock.now()]
    );
    mkdirSync(join(backups.folder.path, `.work-${other!.id}`), { recursive: true });
    writeFileSync(join(backups.folder.path, `.work-${other!.id}`, 'part'), 'half');
    writeFileSync(join(backups.folder.path, 'bussola-2020-01-01T00-00-00Z.tar.gz'), 'whole, and nobody noted it');
    const again = new Backups({ ...house.bussola, connection: connectionOf() });
    await again.start();
    await again.close();
    const [forsaken] = await listBackups(db);
    expect([forsaken?.state, forsaken?.problem?.message]).to.deep.equal(['failed', 'Bussola ended while it ran.']);
    expect(files()).to.deep.equal([]);
    rmSync(backups.folder.path, { recursive: true });
  }).timeout(300_000);

  it('are made when they are due, rehearsed once a week, and the oldest go', async () => {
    const { backups, db } = house.bussola;
    await db.rows('delete from backups');
    await backups.schedule(plan(), null, 'Kaja Tamm');
    expect((await refusalOf(backups.schedule(plan(), null, 'Nerea')))?.code).to.equal('changed-meanwhile');
    const made = async (count: number) => {
      house.clock.pass(24 * 60);
      await until('it is made', async () => {
        const all = (await listBackups(db)).filter(({ kind, state }) => kind === 'backup' && state === 'done');
        return all.length === count;
      });
      await idle();
    };
    for (const count of [1, 2, 3]) await made(count);
    const all = await listBackups(db);
    expect(
      all.filter(({ kind }) => kind === 'rehearsal').map(({ state, isScheduled }) => [state, isScheduled])
    ).to.deep.equal([['done', true]]);
    expect(all.filter(({ kind }) => kind === 'backup').map(({ file }) => file !== null)).to.deep.equal([
      true,
      true,
      false
    ]);
    expect(files()).to.have.length(2);
    expect(await figures()).to.deep.equal([0, 0]);
    // Whatever of weeks is missed is made once.
    house.clock.pass(24 * 60 * 5);
    await until('made', async () => (await listBackups(db)).filter(({ kind }) => kind === 'backup').length === 4);
    await idle();
    expect((await listBackups(db)).filter(({ kind }) => kind === 'backup')).to.have.length(4);
  }).timeout(600_000);

  it('say why they cannot be made, and how long they are overdue', async () => {
    const { backups, db } = house.bussola;
    rmSync(backups.folder.path, { recursive: true });
    writeFileSync(backups.folder.path, 'no folder');
    expect((await refusalOf(backups.makeBackup('Kaja Tamm')))?.code).to.equal('data-folder');
    house.clock.pass(24 * 60);
    await until('noted', async () => (await listBackups(db))[0]?.problem?.code === 'data-folder');
    const [overdue] = await figures();
    expect(overdue).to.be.within(1, 86_400);
    rmSync(backups.folder.path);
  }).timeout(300_000);
});
