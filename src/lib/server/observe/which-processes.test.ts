import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { soleDuties } from '../duties/duties';
import { noteProcess, type Role } from '../duties/processes';
import { insertAccount } from '../inventory/accounts';
import { instant } from '$lib/core/time';
import { processFaults, whichProcesses } from './which-processes';

describe('the processes on a database', () => {
  const fixture = withDatabase();
  const config = { instance: 'front', role: 'web' as const };
  const seen = (id: string, role: Role) =>
    noteProcess(fixture.db, { id, instance: id, role, version: '0.1.0', schema: 54, host: 'db-1' });
  const shared = (...engines: string[]) => ({ id: 'front', engines: () => engines });

  it('is one alone where its database is embedded', async () => {
    const [one, ...others] = await whichProcesses({
      db: fixture.db,
      config: { ...config, role: 'all' },
      duties: soleDuties('x')
    });
    expect(others).to.deep.equal([]);
    expect(one).to.deep.include({ instance: 'front', role: 'all', lives: true, answers: true, accounts: [], does: [] });
    expect(await processFaults(fixture.db, soleDuties('x'))).to.deep.equal([]);
  });

  it('are listed with what each does, and those that ended without a word with when they were seen last', async () => {
    for (const name of ['corallo-prod', 'removed'])
      await insertAccount(fixture.db, {
        ...{ name, provider: 'levante', endpoint: 'http://127.0.0.1', keyId: 'k', sealedSecret: Buffer.of(1) },
        ...{ createdAt: instant(1), createdBy: 'x', historyFrom: instant(1) }
      });
    await seen('front', 'web');
    await seen('night', 'engine');
    await seen('noon', 'engine');
    await fixture.db.rows(`insert into duties (name, holder) values
      ('account 1', 'night'), ('account 999', 'night'), ('sealing', 'night'), ('account 2', 'noon'), ('history', null)`);
    await fixture.db.rows("update processes set seen_at = seen_at - 60000 where id = 'noon'");
    const all = await whichProcesses({ db: fixture.db, config, duties: shared('night') });
    expect(
      all.map(({ instance, lives, answers, accounts, does }) => [instance, lives, answers, accounts, does])
    ).to.deep.equal([
      ['front', true, true, [], []],
      ['night', true, false, ['corallo-prod'], ['sealing']],
      ['noon', false, false, [], []]
    ]);
    expect(await processFaults(fixture.db, shared('night'))).to.deep.equal([
      {
        what: 'The engine noon on db-1 ended without a word',
        why: '1 other engine took its work over: start it again, or see its log'
      }
    ]);
  });

  it('without an engine judge nothing, which is said', async () => {
    const [fault] = await processFaults(fixture.db, shared());
    expect(fault?.what).to.equal('No engine works');
  });
});
