import { expect } from 'chai';
import fc from 'fast-check';
import { hasPostgres, withDatabase } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { loggerOf } from '../base/logger';
import { confirmDuty, DutyLost, soleDuties, type Duties } from './duties';
import { listProcesses, noteProcess, refuseOtherMachines, type Role } from './processes';
import { engineFor } from './share';
import { shareDuties } from './share-duties';

const log = loggerOf({ logLevel: 'silent', secrets: [] });

describe('which engine does what', () => {
  it('is the same in whatever order they are named, and nobody where there is none', () => {
    expect(engineFor('sealing', [])).to.equal(null);
    fc.assert(
      fc.property(fc.string(), fc.uniqueArray(fc.string({ minLength: 1 }), { minLength: 1 }), (name, engines) => {
        const chosen = engineFor(name, engines);
        expect(engines).to.include(chosen);
        expect(engineFor(name, [...engines].reverse())).to.equal(chosen);
        // One that goes takes nothing along but its own.
        for (const gone of engines.filter((one) => one !== chosen))
          expect(
            engineFor(
              name,
              engines.filter((one) => one !== gone)
            )
          ).to.equal(chosen);
      })
    );
  });

  it('is about as much for each', () => {
    const engines = ['a', 'b', 'c', 'd'];
    const counts = engines.map(
      (engine) =>
        Array.from({ length: 4000 }, (_, i) => engineFor(`account ${i}`, engines)).filter((one) => one === engine)
          .length
    );
    for (const count of counts) expect(count).to.be.within(850, 1150);
  });
});

describe('duties', function () {
  this.timeout(90_000);
  const fixture = withDatabase();
  const running: { stop(): Promise<void> }[] = [];
  const all = Array.from({ length: 12 }, (_, i) => `account ${i}`);
  const start = async (id: string, role: Role = 'engine'): Promise<Duties> => {
    const process = { id, instance: id, role, version: '1', schema: 54, host: 'here' };
    const shared = await shareDuties({ db: fixture.db, log, process, wanted: () => Promise.resolve(all) });
    running.push(shared);
    return shared.duties;
  };
  const heldBy = (duties: Duties) => all.filter((name) => duties.held(name) !== null);
  const areShared = (...engines: Duties[]) =>
    until('they are shared', () => {
      const each = engines.map(heldBy);
      return each.flat().length === all.length && each.every((names) => names.length > 0) ? each : null;
    });
  afterEach(async () => {
    for (const one of running.splice(0)) await one.stop();
    await fixture.db.rows('delete from duties');
    await fixture.db.rows('delete from processes');
  });

  it('are all of a process that has its database alone', async () => {
    const duties = soleDuties('one');
    const held = duties.held('sealing');
    expect([held, duties.engines()]).to.deep.equal([{ name: 'sealing', fence: null }, null]);
    await confirmDuty(fixture.db, held);
    expect(await duties.during('sealing', ({ name }) => Promise.resolve(name))).to.equal('sealing');
  });

  it('are those of the only engine, are shared with one that joins, and pass on at once when one ends in order', async () => {
    const one = await start('one');
    expect(heldBy(one)).to.deep.equal(all);
    const two = await start('two');
    const [first, second] = await areShared(one, two);
    expect([...(first ?? []), ...(second ?? [])].sort()).to.deep.equal([...all].sort());
    await running.pop()?.stop();
    await until('they are back', () => heldBy(one).length === all.length);
    expect(heldBy(two)).to.deep.equal([]);
    expect((await listProcesses(fixture.db)).map(({ id }) => id)).to.deep.equal(['one']);
  });

  it('are not of a process that only serves; it knows the engines', async () => {
    const web = await start('web', 'web');
    await start('one');
    await until('it knows', () => web.engines()?.join() === 'one');
    expect(heldBy(web)).to.deep.equal([]);
    expect(await web.during('account 1', () => Promise.resolve(1))).to.equal(null);
  });

  it('are handed to another engine only once what is under way has ended', async () => {
    const one = await start('one');
    let end = (): void => undefined;
    const works = all.map((name) => one.during(name, () => new Promise<void>((ended) => (end = chained(end, ended)))));
    const two = await start('two');
    await until('the first leaves some', () => heldBy(one).length < all.length);
    const [{ count } = { count: 0 }] = await fixture.db.rows<{ count: number }>(
      "select count(*) as count from duties where holder = 'one'"
    );
    expect([count, heldBy(two)]).to.deep.equal([all.length, []]);
    end();
    await Promise.all(works);
    await areShared(one, two);
  });

  it('of an engine that ends without a word are taken over within ten seconds, and it may write nothing more', async () => {
    // One that was killed: its row stays, and nobody renews it.
    await noteProcess(fixture.db, {
      ...{ id: 'killed', instance: 'k', role: 'engine' },
      ...{ version: '1', schema: 54, host: 'here' }
    });
    await fixture.db.rows("insert into duties (name, holder, fence) select unnest($1::text[]), 'killed', 7", [all]);
    const began = performance.now();
    const one = await start('one');
    expect(heldBy(one).length).to.equal(0);
    await until('it has all', () => heldBy(one).length === all.length, 30_000);
    const took = performance.now() - began;
    expect(took, 'not while it may live').to.be.at.least(3_000);
    expect(one.held('account 1')?.fence).to.equal(8);
    await fixture.db.transaction((within) => confirmDuty(within, one.held('account 1')));
    const stale = fixture.db.transaction((within) => confirmDuty(within, { name: 'account 1', fence: 7 }));
    expect(await stale.catch((error: unknown) => error)).to.be.instanceOf(DutyLost);
  });

  it('that were taken over while some work of theirs went on end that work without a fault', async () => {
    const one = await start('one');
    const answer = await one.during('account 3', async (held) => {
      await fixture.db.rows("update duties set holder = 'other', fence = fence + 1 where name = 'account 3'");
      await fixture.db.transaction((within) => confirmDuty(within, held));
      return 'written';
    });
    expect(answer).to.equal(null);
  });

  // The embedded database does one transaction at a time.
  if (hasPostgres)
    it('cannot be taken over in the middle of what is written under them', async () => {
      const one = await start('one');
      await fixture.db.transaction(async (within) => {
        await confirmDuty(within, one.held('account 3'));
        await fixture.db.rows("update processes set seen_at = 0 where id = 'one'");
        const two = await start('two');
        await until('it has others', () => heldBy(two).length > 0);
        const [row] = await within.rows<{ holder: string }>("select holder from duties where name = 'account 3'");
        expect(row?.holder).to.equal('one');
      });
    });

  it('on other machines need a key that all of them have', async () => {
    await refuseOtherMachines(fixture.db, 'here');
    const other = { id: 'x', instance: 'x', role: 'all' as const, version: '1', schema: 54, host: 'db-2' };
    await noteProcess(fixture.db, other);
    const refused = await refusalOf(refuseOtherMachines(fixture.db, 'here'));
    expect([refused?.code, refused?.message]).to.deep.equal([
      'secrets-key',
      'Another process works on this database, on the machine db-2, and BUSSOLA_KEY is not set here: what is secret could not be read on both.'
    ]);
    await refuseOtherMachines(fixture.db, 'db-2');
  });
});

const chained = (before: () => void, also: () => void) => (): void => {
  before();
  also();
};
