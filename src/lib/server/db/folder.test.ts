import { allRoutes } from '../routing/routes';
import { plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { openPool } from './pool';
import { expect } from 'chai';
import { alarmSchema } from '../../core/alarm';
import { allAlarms, seriesStates } from '../alarms/alarms';
import { changesOfIncident, incidentById } from '../incidents/incidents';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { withDatabase, withFolder } from '../../../../tests/support/database';
import { openFolder } from './folder';
import { lockFolder } from './lock';
import { noteProcess } from '../duties/processes';
import { knownVersion, migrate, migrations } from './migrate';

const refusalOf = (work: () => unknown): Refusal => {
  try {
    work();
  } catch (error) {
    if (error instanceof Refusal) return error;
    throw error;
  }
  throw new Error('it was not refused');
};

describe('the data folder', () => {
  const fixture = withFolder();
  const folderNamed = (name: string) => join(fixture.path, name);

  it('is made for its owner alone', () => {
    const folder = openFolder(folderNamed('new'), 1);
    expect(statSync(folder.path).mode & 0o777).to.equal(0o700);
    folder.release();
  });

  it('in use is refused to a second application, with the process that holds it', () => {
    const folder = openFolder(folderNamed('held'), 1);
    const refusal = refusalOf(() => openFolder(folderNamed('held'), 1));
    expect(refusal.message).to.contain(`in use by another Bussola (process ${process.pid})`);
    expect(refusal.remedy).to.contain('BUSSOLA_DATA');
    folder.release();
    openFolder(folderNamed('held'), 1).release();
  });

  it('left by a process that was killed is taken over', async () => {
    const path = folderNamed('killed');
    mkdirSync(path);
    const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000); console.log("up")'], {
      stdio: ['ignore', 'pipe', 'ignore']
    });
    await once(child.stdout, 'data');
    const stat = readFileSync(`/proc/${child.pid}/stat`, 'utf8');
    const started = stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19];
    writeFileSync(join(path, 'lock'), JSON.stringify({ pid: child.pid, started }));
    expect(refusalOf(() => lockFolder(path)).message).to.contain(String(child.pid));
    child.kill('SIGKILL');
    await once(child, 'exit');
    lockFolder(path)();
  });

  it('whose lock names a pid that another process got since is taken over', () => {
    const path = folderNamed('reused');
    mkdirSync(path);
    writeFileSync(join(path, 'lock'), JSON.stringify({ pid: process.pid, started: '1' }));
    lockFolder(path)();
    writeFileSync(join(path, 'lock'), '{"pid":');
    lockFolder(path)();
    expect(readdirSync(path)).to.deep.equal([]);
  });

  it('of a newer version is refused and not touched', () => {
    const path = folderNamed('newer');
    mkdirSync(path);
    writeFileSync(join(path, 'version'), '99\n');
    expect(refusalOf(() => openFolder(path, 1)).message).to.contain('its version is 99, this program knows 1');
    expect(readdirSync(path)).to.deep.equal(['version']);
    writeFileSync(join(path, 'version'), 'nonsense');
    expect(refusalOf(() => openFolder(path, 1)).message).to.contain('newer');
  });

  it('that cannot be made is refused with the reason', () => {
    writeFileSync(folderNamed('file'), '');
    expect(refusalOf(() => openFolder(folderNamed('file/data'), 1)).message).to.match(
      /cannot be written: (ENOTDIR|EEXIST)/
    );
    expect(existsSync(folderNamed('file/data'))).to.equal(false);
  });
});

describe('a database of an older version', () => {
  const fixture = withDatabase({ migrated: false });

  it('keeps its alarms, their states and incidents: what they watch becomes a signal of one row', async () => {
    const { db } = fixture;
    await db.rows('create table migrations (number integer primary key, name text not null)');
    for (const { number, name, sql } of migrations().filter((one) => one.number <= 4)) {
      await db.rows(sql);
      await db.rows('insert into migrations (number, name) values ($1, $2)', [number, name]);
    }
    const where = [{ label: 'account', is: ['corallo-prod'] }];
    const older = { version: 1, metric: 'machine.processor.use', where, step: 'PT1M', statistic: 'avg' };
    const definition = {
      name: 'Processor nearly exhausted',
      signal: older,
      rule: { condition: { is: 'above', threshold: 85 }, window: { needs: 3, of: 5 }, whenMissing: 'indeterminate' },
      severity: 'major',
      channels: [1]
    };
    await db.rows(
      `insert into alarms (name, definition, created_at, created_by, changed_at, changed_by) values ($1, $2, 1, 'x', 1, 'x')`,
      [definition.name, JSON.stringify(definition)]
    );
    await db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       values ('corallo-prod', 'levante', 'x', 'k', '', 1, 'x', 1)`
    );
    await db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values (1, 'i-1', 'booking-web-1', 'machine', 'machines', 'perla-1', '{}', 1, 1)`
    );
    await db.rows(
      `insert into series (account_id, resource_id, metric, labels) values (1, 1, 'machine.processor.use', '{"core": "1"}')`
    );
    await db.rows(
      `insert into alarm_series (alarm_id, account_id, series_id, state, since, judged_until) values (1, 1, 1, 'raised', 5, 9)`
    );
    await db.rows(
      `insert into incidents (alarm_id, account_id, series_id, severity, opened_at, peak) values (1, 1, 1, 'major', 5, 97)`
    );
    await db.rows(
      `insert into state_changes (alarm_id, account_id, series_id, incident_id, at, from_state, to_state, evidence)
       values (1, 1, 1, 1, 5, 'clear', 'raised', $1)`,
      [JSON.stringify({ start: 0, step: 60_000, values: [97, null], met: 1, missing: 1, rule: definition.rule })]
    );
    await db.rows(
      `insert into channels (kind, name, address, confirm_hash, created_at, created_by) values ('email', 'Night', 'night@example.test', '', 1, 'x')`
    );
    expect((await migrate(db))[0]).to.equal('005-signals.sql');
    const [state] = await seriesStates(db, 1);
    expect(state).to.include({ key: '1', state: 'raised', severity: 'major', since: 5, seriesId: 1 });
    expect(state?.labels).to.include({ account: 'corallo-prod', resource: 'booking-web-1', core: '1' });
    const incident = await incidentById(db, 1);
    expect(incident).to.include({ key: '1', subject: 'booking-web-1 1', region: 'perla-1', unit: null, peak: 97 });
    const changes = await changesOfIncident(db, 1);
    expect(changes.map(({ to }) => to)).to.deep.equal(['raised']);
    expect(changes[0]?.evidence).to.deep.include({
      ...{ values: [97, null], low: [null], high: [85], codes: '12', met: 1, missing: 1, well: 0, alarmVersion: 0 },
      level: threshold('above', 85)
    });
    const [alarm] = await allAlarms(db);
    const { metric, statistic } = older;
    expect(alarmSchema.parse(alarm?.definition)).to.deep.equal({
      ...{ name: definition.name, route: 1, ...plainDetails },
      rule: rule(3, 5, { levels: [threshold('above', 85)] }),
      signal: { version: 2, rows: [{ name: 'a', metric, where, statistic }], step: 'PT1M' }
    });
    // The channels that it named are a route now, for alarms that name it.
    const [route, ...others] = await allRoutes(db);
    expect(others).to.deep.equal([]);
    expect(route).to.deep.include({ id: 1, place: null, isLast: false });
    expect(route?.route).to.deep.include({
      ...{ name: 'Night', steps: [{ after: 0, notify: [{ kind: 'channel', channelId: 1 }] }], notifiesClear: true },
      group: { by: 'incident', wait: 0, atMostEvery: 0 }
    });
  });
});

describe('migrations', () => {
  const fixture = withDatabase();

  it('are applied once', async () => {
    expect(await migrate(fixture.db)).to.deep.equal([]);
    expect(knownVersion()).to.be.at.least(1);
  });

  it('refuse a database that a newer program wrote', async () => {
    await fixture.db.rows(`insert into migrations (number, name) values (900, '900-later.sql')`);
    const error = await migrate(fixture.db).catch((refused: unknown) => refused);
    expect(error).to.be.instanceOf(Refusal);
    expect((error as Refusal).message).to.contain('900-later.sql');
    await fixture.db.rows('update migrations set is_additive = true where number = 900');
    expect(await migrate(fixture.db), 'one that only added to it').to.deep.equal([]);
    await fixture.db.rows('delete from migrations where number = 900');
  });

  it('that change what an older program knows wait until that has ended', async () => {
    const older = { id: 'o', instance: 'night', role: 'all' as const, version: '1', schema: 2, host: 'db-1' };
    await noteProcess(fixture.db, older);
    await fixture.db.rows('delete from migrations where number = 3');
    const refused = (await migrate(fixture.db).catch((error: unknown) => error)) as Refusal;
    expect([refused.code, refused.message]).to.deep.equal([
      'newer-data',
      'An older Bussola works on this database and could not go on beside 003-intake.sql: night on db-1.'
    ]);
    await fixture.db.rows('delete from processes');
    await fixture.db.rows(`insert into migrations (number, name) values (3, '003-intake.sql')`);
  });
});

describe('migrations of several processes at once', () => {
  const fixture = withDatabase({ migrated: false });

  it('are each applied by one of them', async () => {
    const others = [1, 2].map(() => openPool(fixture.connection, 1, null));
    const applied = await Promise.all([fixture.db, ...others].map((db) => migrate(db)));
    expect(applied.flat().sort()).to.deep.equal(migrations().map(({ name }) => name));
    for (const db of others) await db.close();
  }).timeout(90_000);
});

describe('the pool', () => {
  const fixture = withDatabase({ migrated: false });

  it('gives up a statement that takes too long, and serves on', async () => {
    const hasty = openPool(fixture.connection, 1, 300);
    const failure = await hasty.rows('select pg_sleep(1.5)').catch((error: Error) => error);
    expect(failure).to.be.instanceOf(Error);
    expect(await hasty.rows('select 1 as n')).to.deep.equal([{ n: 1 }]);
    await hasty.close();
  });

  it('refuses an undefined parameter rather than writing null', async () => {
    const error = await fixture.db
      .rows('select $1::text as a, $2::text as b', ['x', undefined])
      .catch((refused: unknown) => refused);
    expect(String(error)).to.equal(
      'TypeError: rows: parameter $2 is undefined in: select $1::text as a, $2::text as b'
    );
  });

  it('rolls a transaction back when its work fails, and the connection serves on', async () => {
    await fixture.db.rows('create table kept (n integer)');
    const error = await fixture.db
      .transaction(async (within) => {
        await within.rows('insert into kept values (1)');
        await within.rows('select * from nothing_of_that_name');
      })
      .catch((refused: unknown) => refused);
    expect((error as { code?: string }).code).to.equal('42P01');
    expect(await fixture.db.rows('select n from kept')).to.deep.equal([]);
  });

  it('reads 64-bit integers as numbers and bytes as bytes', async () => {
    const [row] = await fixture.db.rows<{ at: number; bytes: Buffer }>(
      'select 1777881600000::bigint as at, $1::bytea as bytes',
      [Uint8Array.of(0, 255, 92)]
    );
    expect(row?.at).to.equal(1777881600000);
    expect([...row!.bytes]).to.deep.equal([0, 255, 92]);
  });
});
