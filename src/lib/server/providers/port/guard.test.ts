import { expect } from 'chai';
import { until } from '../../../../../tests/support/until';
import { Changes } from '../../base/changes';
import { Guards } from '../../intake/ledger/intake';
import { outboundTo } from './outbound';
import { duration } from '../../../core/time';
import { accountGuard, plainGuard, usualLimits } from './guard';
import { ProviderError, type ProviderFault } from './provider';

const failure = (fault: ProviderFault, retryAfterMs: number | null = null) =>
  new ProviderError(fault, fault, 'nothing', { retryAfter: retryAfterMs === null ? null : duration(retryAfterMs) });

/** Awaits a refusal and gives its fault. */
const faultOf = async (call: Promise<unknown>): Promise<ProviderFault> => {
  try {
    await call;
  } catch (error) {
    if (error instanceof ProviderError) return error.code;
    throw error;
  }
  throw new Error('it passed');
};

describe('the guard of an account', () => {
  it('lets so many calls run at once, and the others wait for their turn', async () => {
    const guard = accountGuard({ ...usualLimits, atOnce: 2 })();
    const ends: (() => void)[] = [];
    let most = 0;
    let running = 0;
    const calls = Array.from({ length: 6 }, () =>
      guard.run(async () => {
        most = Math.max(most, ++running);
        await new Promise<void>((end) => ends.push(end));
        running--;
      })
    );
    for (let ended = 0; ended < 6; ended++) {
      await until('the next call', () => ends.length > ended);
      expect(running).to.be.at.most(2);
      ends[ended]?.();
    }
    await Promise.all(calls);
    expect(most).to.equal(2);
    expect(guard.meter.requests).to.equal(6);
  });

  it('tries again what may pass the next time, so often and no more', async () => {
    for (const fault of ['unreachable', 'unavailable', 'malformed', 'throttled'] as const) {
      const guard = accountGuard({ ...usualLimits, tries: 2 })();
      let calls = 0;
      const second = await guard.run(() => (++calls === 1 ? Promise.reject(failure(fault)) : Promise.resolve('there')));
      expect([second, calls], fault).to.deep.equal(['there', 2]);
    }
    const guard = accountGuard({ ...usualLimits, tries: 2 })();
    let calls = 0;
    expect(await faultOf(guard.run(() => (calls++, Promise.reject(failure('unavailable')))))).to.equal('unavailable');
    expect(calls).to.equal(2);
  });

  it('does not try again what a second try cannot mend', async () => {
    for (const fault of ['permission', 'signature', 'clock', 'refused'] as const) {
      const guard = accountGuard(usualLimits)();
      let calls = 0;
      expect(await faultOf(guard.run(() => (calls++, Promise.reject(failure(fault)))))).to.equal(fault);
      expect(calls, fault).to.equal(1);
    }
  });

  it('leaves a long wait that the provider asked for to the next pull, and counts it', async () => {
    const guard = accountGuard(usualLimits)();
    let calls = 0;
    expect(await faultOf(guard.run(() => (calls++, Promise.reject(failure('throttled', 60_000)))))).to.equal(
      'throttled'
    );
    expect([calls, guard.meter.throttled]).to.deep.equal([1, 1]);
  });

  it('rests after many failures on end, without calling, and goes on once it answers again', async () => {
    const guards = accountGuard({ ...usualLimits, tries: 1, failuresToRest: 3, restMs: 100 });
    let calls = 0;
    const fail = () => faultOf(guards().run(() => (calls++, Promise.reject(failure('unreachable')))));
    for (let i = 0; i < 3; i++) expect(await fail()).to.equal('unreachable');
    expect(await fail()).to.equal('paused');
    expect(calls).to.equal(3);
    await until('the end of the rest', () =>
      guards()
        .run(() => Promise.resolve(true))
        .catch((error: unknown) =>
          error instanceof ProviderError && error.code === 'paused' ? false : Promise.reject(error as Error)
        )
    );
    expect(await guards().run(() => Promise.resolve('there'))).to.equal('there');
  });

  it('of one account never holds that of another', async () => {
    const slow = accountGuard({ ...usualLimits, atOnce: 1 })();
    const other = accountGuard({ ...usualLimits, atOnce: 1 })();
    let end = () => {};
    const fixture = slow.run(() => new Promise<void>((done) => (end = done)));
    expect(await other.run(() => Promise.resolve('there'))).to.equal('there');
    end();
    await fixture;
  });

  it('for testing a credential tries once', async () => {
    const guard = plainGuard();
    let calls = 0;
    expect(await faultOf(guard.run(() => (calls++, Promise.reject(failure('unreachable')))))).to.equal('unreachable');
    expect([calls, guard.meter.requests]).to.deep.equal([1, 1]);
  });

  it('leaves a provider alone that another process leaves alone, for as long', async () => {
    const [here, there] = [new Changes(), new Changes()];
    here.spreadBy((name, what) => there.hear(name, what as never));
    const limits = { tries: 1, failuresToRest: 2, restMs: 300 };
    const [one, two] = [here, there].map((changes) => new Guards(outboundTo([]), limits, changes));
    const call = (guards: Guards | undefined, accountId: number, fault: ProviderFault | null) =>
      faultOf(
        guards!.of(accountId).run(() => (fault === null ? Promise.resolve() : Promise.reject(failure(fault))))
      ).catch((error: Error) => error.message);
    for (let i = 0; i < 2; i++) expect(await call(one, 3, 'unavailable')).to.equal('unavailable');
    expect(await call(two, 3, null)).to.equal('paused');
    expect(await call(two, 4, null), 'another account').to.equal('it passed');
    await until('it is called again', async () => (await call(two, 3, null)) === 'it passed');
    await until('here as well', async () => (await call(one, 3, null)) === 'it passed');
  });
});
