import { expect } from 'chai';
import { RateLimiterRes } from 'rate-limiter-flexible';
import { withDatabase } from '../../../../tests/support/database';
import { ownLimits, sharedLimits, type Limiter } from './limits';

describe('limits', function () {
  this.timeout(60_000);
  const fixture = withDatabase();
  const options = { points: 2, duration: 900, keyPrefix: 'name' };
  /** Whether there was one left. */
  const may = (limiter: Limiter, key: string | number): Promise<boolean> =>
    limiter.consume(key).then(
      () => true,
      (refused: unknown) => {
        if (refused instanceof RateLimiterRes) return false;
        throw refused;
      }
    );

  it('of several processes count together, by key and by what they limit, and stand in nobody’s name', async () => {
    const [one, two] = [sharedLimits(fixture.db)(options), sharedLimits(fixture.db)(options)];
    const long = 'n'.repeat(5_000);
    for (const key of ['nerea@192.0.2.7', 7, long]) {
      expect([await may(one, key), await may(two, key), await may(one, key), await may(two, key)]).to.deep.equal([
        ...[true, true, false, false]
      ]);
      expect((await two.get(key))?.consumedPoints).to.equal(4);
    }
    expect(await may(sharedLimits(fixture.db)({ ...options, keyPrefix: 'code' }), 7)).to.equal(true);
    expect(await one.get('nobody')).to.equal(null);
    const rows = await fixture.db.rows<{ key: string }>('select key from limits');
    expect(rows.map(({ key }) => key).join()).not.to.contain('nerea');
    await one.delete(7);
    expect(await may(two, 7)).to.equal(true);
    await two.reward(7);
    expect((await one.get(7))?.consumedPoints).to.equal(0);
  });

  it('of one process are its own', async () => {
    const [one, two] = [ownLimits(options), ownLimits(options)];
    expect([await may(one, 'a'), await may(one, 'a'), await may(one, 'a'), await may(two, 'a')]).to.deep.equal([
      ...[true, true, false, true]
    ]);
  });

  it('let whoever tries at once through as often as they may', async () => {
    const limiters = Array.from({ length: 4 }, () => sharedLimits(fixture.db)({ ...options, points: 5 }));
    const tries = await Promise.all(Array.from({ length: 20 }, (_, i) => may(limiters[i % 4] as Limiter, 'at once')));
    expect(tries.filter(Boolean)).to.have.length(5);
  });
});
