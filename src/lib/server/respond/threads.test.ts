import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident } from '../../../../tests/support/incidents';
import { emptyThread, routeSchema } from '../../core/notify/route';
import { after as later, instant, minute, times } from '../../core/time';
import { allRoutes, insertRoute, type StoredRoute } from '../routing/routes';
import { dueThreads, HeldThreads, openOnlyBy, saveThread, takeThread, threadsOf } from './threads';

describe('threads that one transaction changes', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  const route = routeSchema.parse({
    ...{ name: 'Harbour', when: {}, zone: 'UTC', group: { by: 'alarm', wait: minute, atMostEvery: 10 * minute } },
    steps: [{ after: 0, notify: [{ kind: 'channel', channelId: 1 }] }]
  });
  const routes: number[] = [];
  let byId: ReadonlyMap<number, StoredRoute> = new Map();

  before(async () => {
    for (const name of ['Harbour', 'Pier']) {
      const made = await insertRoute(fixture.db, { ...route, name }, 'named', { at: now, by: 'test' });
      routes.push(made.id);
    }
    byId = new Map((await allRoutes(fixture.db)).map((one) => [one.id, one]));
  });
  afterEach(() => fixture.db.rows('truncate incident_threads, threads, incidents cascade'));

  const incident = () => storeIncident(fixture.db, now);
  const inOne = <T>(ids: readonly number[], work: (held: HeldThreads) => Promise<T>): Promise<T> =>
    fixture.db.transaction(async (within) => {
      const held = await HeldThreads.ofIncidents(within, ids);
      const result = await work(held);
      await held.save();
      return result;
    });
  const noted = () =>
    fixture.db.rows<{ incident: number; thread: number; current: boolean }>(
      'select incident_id as incident, thread_id as thread, is_current as current from incident_threads order by 1, 2'
    );
  const [harbour, pier] = [() => routes[0] ?? 0, () => routes[1] ?? 0];

  it('are the same for all with the same value, whatever else the route has', async () => {
    const [a, b, c] = [await incident(), await incident(), await incident()];
    const [first, second, third] = await inOne([a, b, c], async (held) => {
      const taken = [];
      for (const [id, value] of [
        [a, 'x'],
        [b, 'x'],
        [c, 'y']
      ] as const) {
        const thread = await held.take(harbour(), route, value, now);
        held.note(id, thread.id);
        taken.push(thread.id);
      }
      return taken;
    });
    expect(first).to.equal(second).and.not.to.equal(third);
    expect(await noted()).to.deep.equal([
      { incident: a, thread: first, current: true },
      { incident: b, thread: first, current: true },
      { incident: c, thread: third, current: true }
    ]);
    // The next transaction finds them again.
    const again = await inOne([b], async (held) => (await held.of(b, byId)).map(({ id }) => id));
    expect(again).to.deep.equal([first]);
  });

  it('one that another route takes over has an incident no longer, and is not forgotten', async () => {
    const id = await incident();
    const first = await inOne([id], async (held) => {
      const thread = await held.take(harbour(), route, 'x', now);
      held.note(id, thread.id);
      return thread.id;
    });
    expect(await openOnlyBy(fixture.db, harbour())).to.deep.equal([id]);
    const second = await inOne([id], async (held) => {
      const thread = await held.take(pier(), route, 'x', now);
      held.note(id, thread.id);
      // Which thread it is in can be asked before the transaction ends.
      await held.saveNoted();
      held.note(id, thread.id);
      return thread.id;
    });
    expect(await noted()).to.deep.equal([
      { incident: id, thread: first, current: false },
      { incident: id, thread: second, current: true }
    ]);
    expect((await threadsOf(fixture.db, id)).map((one) => one.id)).to.deep.equal([first, second]);
    expect(await openOnlyBy(fixture.db, harbour()), 'it is not its alone').to.deep.equal([]);
  });

  it('of two that an incident comes into in one go, the latter is current', async () => {
    const id = await incident();
    const [one, two] = await inOne([id], async (held) => {
      const taken = [await held.take(harbour(), route, 'x', now), await held.take(pier(), route, 'x', now)];
      for (const thread of [taken[0], taken[1], taken[0], taken[1]]) held.note(id, thread?.id ?? 0);
      return taken.map((thread) => thread.id);
    });
    expect(await noted()).to.deep.equal([
      { incident: id, thread: one, current: false },
      { incident: id, thread: two, current: true }
    ]);
  });

  it('one that is over is forgotten with what was noted of it, and what comes next is another', async () => {
    const [a, b] = [await incident(), await incident()];
    const [over, next] = await inOne([a, b], async (held) => {
      const first = await held.take(harbour(), route, 'x', now);
      held.note(a, first.id);
      held.change(first.id, { ...emptyThread, sentAt: now });
      const second = await held.take(harbour(), route, 'x', later(now, times(60, minute)));
      held.note(b, second.id);
      return [first.id, second.id];
    });
    expect(next).not.to.equal(over);
    expect(await noted()).to.deep.equal([{ incident: b, thread: next, current: true }]);
  });

  it('one that cannot be read keeps nobody from being notified: another takes its place', async () => {
    const id = await incident();
    const made = await inOne([id], async (held) => {
      const thread = await held.take(harbour(), route, 'x', now);
      held.note(id, thread.id);
      return thread.id;
    });
    await fixture.db.rows(`update threads set state = '{"version": 99}'`);
    const [of, taken] = await inOne([id], async (held) => [
      await held.of(id, byId),
      await held.take(harbour(), route, 'x', now)
    ]);
    expect(of).to.deep.equal([]);
    expect((taken as { id: number }).id).not.to.equal(made);
  });

  it('are due the longest due first, and one of which nothing is left when it can be forgotten', async () => {
    const ids = await inOne([], async (held) => [
      (await held.take(harbour(), route, 'x', now)).id,
      (await held.take(harbour(), route, 'y', now)).id
    ]);
    const [x, y] = [ids[0] ?? 0, ids[1] ?? 0];
    await saveThread(fixture.db, x, { ...emptyThread, sentAt: now }, route);
    await saveThread(fixture.db, y, { ...emptyThread, sentAt: later(now, minute) }, route);
    expect(await dueThreads(fixture.db, later(now, times(9, minute)), 10)).to.deep.equal([]);
    expect(await dueThreads(fixture.db, later(now, times(10, minute)), 10)).to.deep.equal([x]);
    expect(await dueThreads(fixture.db, later(now, times(11, minute)), 10)).to.deep.equal([x, y]);
    expect(await dueThreads(fixture.db, later(now, times(11, minute)), 1)).to.deep.equal([x]);
    expect((await takeThread(fixture.db, y))?.thread.sentAt).to.equal(later(now, minute));
    expect(await takeThread(fixture.db, 999_999)).to.equal(null);
  });
});
