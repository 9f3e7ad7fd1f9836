import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { instant } from '../../core/time';
import { Changes } from '../base/changes';
import { inOneTransaction } from './one-transaction';

describe('several things in one transaction', () => {
  const at = withDatabase();
  const changes = new Changes();
  const told: string[] = [];
  const context = () => ({ db: at.db, changes, clock: { now: () => instant(1) } });
  const count = async () => (await at.db.rows('select from things')).length;
  /** As each operation does by itself: in a transaction of its own, then it tells of it. */
  const add = async ({ db, changes: of }: ReturnType<typeof context>, name: string): Promise<void> => {
    await db.transaction((within) => within.rows('insert into things values ($1)', [name]));
    of.tell('objectives', {});
  };
  before(async () => {
    await at.db.rows('create table things (name text primary key)');
    changes.on('objectives', () => told.push('told'));
  });
  beforeEach(async () => {
    await at.db.rows('delete from things');
    told.length = 0;
  });

  it('are all done, and told once they are', async () => {
    const result = await inOneTransaction(context(), async (inner) => {
      await add(inner, 'a');
      await add(inner, 'b');
      expect(told, 'nobody hears of what is not committed').to.deep.equal([]);
      expect(await inner.db.rows('select from things')).to.have.length(2);
      return 'done';
    });
    expect([result, await count(), told]).to.deep.equal(['done', 2, ['told', 'told']]);
  });

  it('are none of them done, and nothing is told, where one fails', async () => {
    const work = inOneTransaction(context(), async (inner) => {
      await add(inner, 'a');
      await add(inner, 'a'); // there is one already
    });
    expect(await work.catch((error: unknown) => (error as { code?: string }).code)).to.equal('23505');
    expect([await count(), told]).to.deep.equal([0, []]);
    await add(context(), 'c');
    expect([await count(), told], 'afterwards all is as ever').to.deep.equal([1, ['told']]);
  });

  it('count their changes only once they are told: whoever was away misses none', async () => {
    const { version } = changes;
    await inOneTransaction(context(), async (inner) => {
      await add(inner, 'a');
      expect(changes.version).to.equal(version);
      expect(inner.changes.version, 'the same count').to.equal(version);
    });
    expect(changes.version).to.equal(version + 1);
  });
});
