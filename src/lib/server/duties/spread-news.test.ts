import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { until } from '../../../../tests/support/until';
import { Changes, type ChangeMap } from '../base/changes';
import type { Database } from '../db/pool';
import { loggerOf } from '../base/logger';
import { spreadNews } from './spread-news';

const log = loggerOf({ logLevel: 'silent', secrets: [] });

describe('news between processes', function () {
  this.timeout(90_000);
  const fixture = withDatabase();
  const running: { stop(): Promise<void> }[] = [];
  const start = async (id: string, db: Database = fixture.db) => {
    const changes = new Changes();
    const heard: string[] = [];
    for (const name of ['samples', 'alarm', 'session', 'definition', 'board'] as const satisfies (keyof ChangeMap)[])
      changes.on(name, (what: object) => void heard.push(`${name} ${JSON.stringify(what)}`));
    const spreading = await spreadNews({ db, changes, id, log });
    running.push(spreading);
    return { changes, heard, stop: () => spreading.stop() };
  };
  afterEach(async () => {
    for (const one of running.splice(0)) await one.stop();
    await fixture.db.rows('delete from news');
  });

  it('are heard by all others once, and by whoever told of them as before', async () => {
    const [one, two, three] = [await start('one'), await start('two'), await start('three')];
    one.changes.tell('samples', { accountId: 3 });
    one.changes.tell('samples', { accountId: 3 });
    one.changes.tell('session', { key: 'k' });
    two.changes.tell('board', { boardId: 7 });
    const told = ['samples {"accountId":3}', 'session {"key":"k"}'];
    await until('the third hears all', () => three.heard.length >= 3);
    await until('the others too', () => one.heard.length >= 4 && two.heard.length >= 3);
    expect(one.heard).to.deep.equal(['samples {"accountId":3}', ...told, 'board {"boardId":7}']);
    expect([...two.heard].sort()).to.deep.equal(['board {"boardId":7}', ...told].sort());
    expect([...three.heard].sort()).to.deep.equal([...two.heard].sort());
    // Those that browsers hear of are counted wherever they come from.
    expect(three.changes.version).to.equal(2);
  });

  it('of before its start are nothing to a process', async () => {
    const one = await start('one');
    one.changes.tell('alarm', { alarmId: 1 });
    await one.stop();
    const two = await start('two');
    const three = await start('three');
    three.changes.tell('alarm', { alarmId: 2 });
    await until('it hears', () => two.heard.length > 0);
    expect(two.heard).to.deep.equal(['alarm {"alarmId":2}']);
  });

  it('that are too many say that everything may have changed', async () => {
    const [one, two] = [await start('one'), await start('two')];
    for (let id = 1; id <= 1_500; id++) one.changes.tell('board', { boardId: id });
    await until('it hears', () => two.heard.length > 0);
    expect(two.heard).to.include('definition {"alarmId":null}');
    expect(two.heard.some((what) => what.startsWith('board'))).to.equal(false);
  });

  it('that cannot be written are written later, and those that a process ends with are still told', async () => {
    let failures = 0;
    const failing: Database = {
      transaction: (work) => fixture.db.transaction(work),
      close: () => fixture.db.close(),
      rows: (statement, values) =>
        statement.includes('insert into news') && failures++ === 0
          ? Promise.reject(new Error('the connection was lost'))
          : fixture.db.rows(statement, values)
    };
    const [one, two] = [await start('one', failing), await start('two')];
    one.changes.tell('alarm', { alarmId: 1 });
    await until('it failed once', () => failures > 0);
    one.changes.tell('alarm', { alarmId: 2 });
    await one.stop();
    await until('it hears both', () => two.heard.length >= 2);
    expect(two.heard).to.deep.equal(['alarm {"alarmId":1}', 'alarm {"alarmId":2}']);
  });
});
