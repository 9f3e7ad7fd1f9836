import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { instant } from '../../core/time';
import { actRight, requireActing, requireSomeActing } from './act-access';
import { lineRight } from './line-access';
import { insertPerson, type Person } from './people';

describe('rights with some accounts', () => {
  const at = withDatabase();
  let kaja: Person;
  let nerea: Person;
  let oda: Person;
  before(async () => {
    const person = { passwordHash: '', zone: 'UTC', createdAt: instant(1) };
    kaja = await insertPerson(at.db, { ...person, name: 'kaja', displayName: 'Kaja', role: 'administrator' });
    nerea = await insertPerson(at.db, { ...person, name: 'nerea', displayName: 'Nerea', role: 'editor' });
    oda = await insertPerson(at.db, { ...person, name: 'oda', displayName: 'Oda', role: 'viewer' });
  });

  it('are as a role says while nobody said otherwise: acting is for administrators', async () => {
    expect(await actRight.of(at.db, kaja)).to.equal(null);
    expect(await actRight.of(at.db, nerea)).to.deep.equal([]);
    expect(await actRight.of(at.db, oda)).to.deep.equal([]);
    expect(await actRight.of(at.db, null), 'nobody').to.deep.equal([]);
    expect(await lineRight.of(at.db, null), 'nobody').to.deep.equal([]);
  });

  it('are what somebody said of a person, each by itself, and as before once that is taken back', async () => {
    const linesBefore = await lineRight.of(at.db, nerea);
    await actRight.set(at.db, nerea.id, [3, 5]);
    expect(await actRight.of(at.db, nerea)).to.deep.equal([3, 5]);
    expect(await lineRight.of(at.db, nerea), 'the other right').to.deep.equal(linesBefore);
    await actRight.set(at.db, kaja.id, []);
    expect(await actRight.of(at.db, kaja), 'even of an administrator').to.deep.equal([]);
    await actRight.set(at.db, oda.id, 'all');
    expect(await actRight.of(at.db, oda)).to.equal(null);
    expect([...(await actRight.all(at.db)).entries()].sort(([a], [b]) => a - b)).to.deep.equal([
      ...([[kaja.id, []] as const, [nerea.id, [3, 5]] as const, [oda.id, 'all'] as const] as const)
    ]);
    for (const { id } of [kaja, nerea, oda]) await actRight.set(at.db, id, null);
    expect(await actRight.of(at.db, kaja)).to.equal(null);
    expect((await actRight.all(at.db)).size).to.equal(0);
  });

  it('that cannot be read allow nothing', async () => {
    for (const damaged of ['"some"', '{"all":true}', '[0]', '[1.5]', '["1"]']) {
      await at.db.rows('update people set act_accounts = $2::jsonb where id = $1', [kaja.id, damaged]);
      expect(await actRight.of(at.db, kaja), damaged).to.deep.equal([]);
    }
    await actRight.set(at.db, kaja.id, null);
  });

  it('are needed for an account, or for all, and refused with what to do', async () => {
    const refused = async (work: () => void) => (await refusalOf(Promise.resolve().then(work)))?.message ?? 'done';
    expect(await refused(() => requireActing(null, 4))).to.equal('done');
    expect(await refused(() => requireActing(null, null))).to.equal('done');
    expect(await refused(() => requireActing([4], 4))).to.equal('done');
    expect(await refused(() => requireActing([4], 5))).to.equal('You may not act on resources of this account.');
    expect(await refused(() => requireActing([4], null))).to.match(/some accounts only/);
    expect(await refused(() => requireActing([], 4))).to.equal('You may not act on resources of this account.');
    expect(await refused(() => requireSomeActing([4]))).to.equal('done');
    expect(await refused(() => requireSomeActing(null))).to.equal('done');
    expect(await refused(() => requireSomeActing([]))).to.equal('You may not act on resources.');
  });
});
