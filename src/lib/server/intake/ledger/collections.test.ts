import type { ProblemCode } from '$lib/core/problem/problem';
import type { AccountError } from '../../inventory/accounts';
import { expect } from 'chai';
import { withDatabase } from '../../../../../tests/support/database';
import type { Instant } from '../../../core/time';
import { insertAccount } from '../../inventory/accounts';
import {
  allCollections,
  allDropped,
  arrivedByCell,
  arrivedSince,
  errorsSince,
  forgetPulls,
  noteDropped,
  notePull,
  noteResting
} from './collections';

const minute = 60_000;
const at = (minutes: number) => (1_777_881_600_000 + minutes * minute) as Instant;

describe('what is noted of pulls', () => {
  const fixture = withDatabase();
  let accountId: number;

  before(async () => {
    ({ id: accountId } = await insertAccount(fixture.db, {
      name: 'one',
      provider: 'levante',
      endpoint: 'x',
      keyId: 'x',
      sealedSecret: Buffer.alloc(0),
      createdAt: at(0),
      createdBy: 'test',
      historyFrom: at(0)
    }));
    await fixture.db.rows(`insert into collections (account_id, service) values ($1, 'machines'), ($1, 'queues')`, [
      accountId
    ]);
  });

  const pull = (
    minutes: number,
    changed: Partial<Parameters<typeof notePull>[3]> = {},
    { service = 'machines', isHistory = false } = {}
  ) =>
    notePull(
      fixture.db,
      accountId,
      service,
      {
        startedAt: at(minutes),
        finishedAt: at(minutes + 0.1),
        points: 10,
        requests: 2,
        throttled: 0,
        refused: 0,
        error: null,
        newestAt: at(minutes - 1),
        pulledUntil: at(minutes),
        lateUntil: null,
        notBefore: null,
        ...changed
      },
      isHistory
    );
  const failing = (minutes: number, code: ProblemCode, message: string) =>
    pull(minutes, {
      points: 0,
      newestAt: null,
      pulledUntil: null,
      error: { code, message, remedy: 'mend it', at: at(minutes) }
    });
  const machines = async () => (await allCollections(fixture.db)).find(({ service }) => service === 'machines')!;

  it('a failure keeps what was reached before it, and the next success clears it', async () => {
    await pull(1);
    await failing(2, 'unreachable', 'first');
    expect(await machines()).to.deep.include({
      lastPullAt: at(2),
      lastSuccessAt: at(1),
      newestAt: at(0),
      pulledUntil: at(1)
    });
    expect((await machines()).lastError?.message).to.equal('first');
    await pull(3);
    expect(await machines()).to.deep.include({ lastSuccessAt: at(3), lastError: null, newestAt: at(2) });
  });

  it('errors are grouped by cause until they are mended, and begin anew after that', async () => {
    await failing(4, 'throttled', 'slow down');
    await failing(5, 'throttled', 'slow down please');
    await failing(6, 'permission', 'no right');
    const open = (await errorsSince(fixture.db, at(0))).filter(({ mendedAt }) => mendedAt === null);
    expect(
      open.map(({ code, count, message, firstAt, lastAt }) => [code, count, message, firstAt, lastAt])
    ).to.deep.equal([
      ['permission', 1, 'no right', at(6), at(6)],
      ['throttled', 2, 'slow down please', at(4), at(5)]
    ]);
    await pull(7);
    expect((await errorsSince(fixture.db, at(0))).filter(({ mendedAt }) => mendedAt === null)).to.deep.equal([]);
    await failing(8, 'throttled', 'again');
    expect((await errorsSince(fixture.db, at(0)))[0]).to.deep.include({ code: 'throttled', count: 1, firstAt: at(8) });
    await pull(9);
  });

  it('history is counted apart and changes neither what is due nor the state', async () => {
    const before = await machines();
    await pull(10, { points: 5000 }, { isHistory: true });
    expect(await machines()).to.deep.include({
      lastPullAt: before.lastPullAt,
      lastSuccessAt: before.lastSuccessAt,
      lastError: null
    });
    const [sum] = (await arrivedSince(fixture.db, at(0))).filter(({ service }) => service === 'machines');
    expect(sum?.points).to.equal(40); // four that succeeded
  });

  it('a provider at rest is an error only where nothing worse is known', async () => {
    const resting: AccountError = { code: 'paused', message: 'left alone', remedy: 'nothing', at: at(11) };
    await failing(11, 'unreachable', 'nothing listens');
    await noteResting(fixture.db, accountId, 'machines', resting);
    await noteResting(fixture.db, accountId, 'queues', resting);
    const faults = Object.fromEntries(
      (await allCollections(fixture.db)).map((one) => [one.service, one.lastError?.code])
    );
    expect(faults).to.deep.equal({ machines: 'unreachable', queues: 'paused' });
    expect((await machines()).lastPullAt).to.equal(at(11));
  });

  it('arrivals are summed by cell, failures marked', async () => {
    await pull(20, { points: 1 }, { service: 'queues' });
    await pull(29, { points: 2 }, { service: 'queues' });
    await pull(
      30,
      { points: 4, error: { code: 'malformed', message: 'x', remedy: 'y', at: at(30) } },
      { service: 'queues' }
    );
    const cells = (await arrivedByCell(fixture.db, at(20), 10 * minute)).filter(({ service }) => service === 'queues');
    expect(cells.map(({ at: cell, points, failed }) => [cell, points, failed])).to.deep.equal([
      [at(20), 3, false],
      [at(30), 4, true]
    ]);
  });

  it('what was dropped is counted by reason, with the newest example, cut where it is long', async () => {
    await noteDropped(fixture.db, accountId, 'machines', [{ reason: 'not a number', count: 3, example: 'NaN' }], at(1));
    await noteDropped(
      fixture.db,
      accountId,
      'machines',
      [{ reason: 'not a number', count: 2, example: `\0\ud800${'x'.repeat(1000)}` }],
      at(2)
    );
    const [dropped] = await allDropped(fixture.db);
    expect([dropped?.count, dropped?.example.length, dropped?.lastAt]).to.deep.equal([5, 300, at(2)]);
    await pull(3, { dropped: [{ reason: 'not a number', count: 4, example: 'Infinity' }] });
    const [withPull] = await allDropped(fixture.db);
    expect([withPull?.count, withPull?.example, withPull?.lastAt]).to.deep.equal([9, 'Infinity', at(3.1)]);
  });

  it('is forgotten by age, but for errors that still stand', async () => {
    await forgetPulls(fixture.db, at(1000));
    expect(await arrivedSince(fixture.db, at(0))).to.deep.equal([]);
    expect((await errorsSince(fixture.db, at(0))).every(({ mendedAt }) => mendedAt === null)).to.equal(true);
    expect((await errorsSince(fixture.db, at(0))).length).to.be.above(0);
  });
});
