import { expect } from 'chai';
import { hasPostgres, withDatabase } from '../../../../tests/support/database';
import { unlessDeadlocked } from './deadlocks';

describe('transactions that wait for one another', () => {
  const fixture = withDatabase();
  const codeOf = (work: Promise<unknown>): Promise<unknown> =>
    work.then(
      () => null,
      (error: unknown) => (error as { code?: string }).code
    );
  const failing = (codes: string[]) => {
    let tries = 0;
    const work = () => {
      const code = codes[tries++];
      return code === undefined ? Promise.resolve(tries) : Promise.reject(Object.assign(new Error(code), { code }));
    };
    return { work, tries: () => tries };
  };

  it('are done once more, and not for ever', async () => {
    expect(await unlessDeadlocked(failing(['40P01', '40P01']).work)).to.equal(3);
    const hopeless = failing(Array.from({ length: 9 }, () => '40P01'));
    expect(await codeOf(unlessDeadlocked(hopeless.work))).to.equal('40P01');
    expect(hopeless.tries()).to.equal(5);
    const other = failing(['23505']);
    expect(await codeOf(unlessDeadlocked(other.work))).to.equal('23505');
    expect(other.tries()).to.equal(1);
  });

  // The embedded database does one transaction at a time.
  if (hasPostgres)
    it('of a server are both done in the end', async () => {
      const { db } = fixture;
      await db.rows('create table locked (id integer primary key, times integer not null)');
      await db.rows('insert into locked values (1, 0), (2, 0)');
      let begun = 0;
      let go = (): void => undefined;
      const bothHaveOne = new Promise<void>((done) => (go = done));
      const add = (first: number, second: number) =>
        unlessDeadlocked(() =>
          db.transaction(async (within) => {
            await within.rows('update locked set times = times + 1 where id = $1', [first]);
            if (++begun === 2) go();
            await bothHaveOne;
            await within.rows('update locked set times = times + 1 where id = $1', [second]);
          })
        );
      await Promise.all([add(1, 2), add(2, 1)]);
      // One was done once more; whoever tries again may be faster than whoever waited, and then they meet once more.
      expect(begun).to.be.at.least(3);
      expect(await db.rows('select times from locked')).to.deep.equal([{ times: 2 }, { times: 2 }]);
    });
});
