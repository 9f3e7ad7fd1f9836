import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { instant } from '../../core/time';
import { insertPerson } from '../people/people';
import { favouritesOf, seenBy, setFavourite } from './favourites';
import { reportPresence } from './presence';

describe('who is on a board, and what they keep at hand', () => {
  const fixture = withDatabase();
  const ids: number[] = [];
  const on = (board: number, person: number, at: number, panel: string | null = null) =>
    reportPresence(fixture.db, board, { id: ids[person] as number, editing: panel !== null, panel }, instant(at));

  before(async () => {
    for (const [name, displayName] of [
      ['nerea', 'Nerea'],
      ['ivo', 'Ivo'],
      ['oda', 'Oda']
    ] as const) {
      const person = {
        name,
        displayName,
        role: 'editor',
        passwordHash: '',
        zone: 'UTC',
        createdAt: instant(1)
      } as const;
      ids.push((await insertPerson(fixture.db, person)).id);
    }
    for (const title of ['One', 'Two'])
      await fixture.db.rows(
        `insert into boards (title, content, created_at, created_by, changed_at, changed_by) values ($1, '{}', 1, 'x', 1, 'x')`,
        [title]
      );
  });

  it('people see the others on their board with the panel they change, by name, and never themselves', async () => {
    expect(await on(1, 0, 1000)).to.deep.equal([]);
    expect(await on(1, 1, 2000, 'p1')).to.deep.equal([{ name: 'Nerea', editing: false, panel: null }]);
    expect(await on(2, 2, 2000)).to.deep.equal([]);
    await on(1, 2, 3000);
    expect(await on(1, 0, 4000)).to.deep.equal([
      { name: 'Ivo', editing: true, panel: 'p1' },
      { name: 'Oda', editing: false, panel: null }
    ]);
  });

  it('who gives no sign for half a minute is gone', async () => {
    await on(2, 0, 100_000);
    expect(await on(2, 1, 129_999)).to.deep.equal([{ name: 'Nerea', editing: false, panel: null }]);
    expect(await on(2, 1, 130_000)).to.deep.equal([]);
  });

  it('a board that is gone has nobody on it, and is nobody’s favourite', async () => {
    expect(await on(99, 0, 5000)).to.equal(null);
    await setFavourite(fixture.db, 99, ids[0] as number, true);
    expect(await favouritesOf(fixture.db, ids[0] as number)).to.deep.equal([]);
  });

  it('favourites are each person’s own, and may be said twice', async () => {
    const [nerea, ivo] = ids as [number, number];
    await setFavourite(fixture.db, 2, nerea, true);
    await setFavourite(fixture.db, 2, nerea, true);
    await setFavourite(fixture.db, 1, ivo, true);
    expect(await favouritesOf(fixture.db, nerea)).to.deep.equal([2]);
    await setFavourite(fixture.db, 2, nerea, false);
    expect(await favouritesOf(fixture.db, nerea)).to.deep.equal([]);
    expect(await favouritesOf(fixture.db, ivo)).to.deep.equal([1]);
  });

  it('boards that were seen are told, newest first', async () => {
    await on(1, 2, 500_000);
    await on(2, 2, 600_000);
    await on(1, 2, 700_000);
    expect(await seenBy(fixture.db, ids[2] as number)).to.deep.equal([
      { id: 1, seenAt: 700_000 },
      { id: 2, seenAt: 600_000 }
    ]);
  });
});
