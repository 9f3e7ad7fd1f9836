import { setTimeout } from 'node:timers/promises';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { hashPassword, passwordMatches } from './passwords';
import { personForSignIn, type Person } from './people';
import { beginSession } from './sessions';

export type SignInResult =
  | { readonly kind: 'signed in'; readonly person: Person; readonly token: string }
  | { readonly kind: 'wrong' }
  | { readonly kind: 'too many'; readonly retryAfterSeconds: number };

/** How long a try waits after so many wrong ones for its name, ms. @example waitAfter(24) // 1000 */
export const waitAfter = (wrong: number): number =>
  wrong <= freeOfAll ? 0 : Math.min(longestWaitMs, (wrong - freeOfAll) * 250);

/** Tries with a wrong password: for one name from one address, and from one address for all names, within fifteen minutes. */
const perName = { points: 8, duration: 900 };
const perAddress = { points: 40, duration: 900 };
/** Wrong passwords for one name from all addresses, after which each further try waits, the longer the more there are; never so that its owner is locked out. */
const freeOfAll = 20;
const ofAll = { points: 1_000_000, duration: 900 };
const longestWaitMs = 5_000;
/** Tries that wait at the same time; more are refused. */
const mostWaiting = 200;

/**
 * Signs people in. Wrong tries are limited by name and address together and by address; those for one name from everywhere are slowed down. An unknown name takes as long as a wrong password, so neither tells the other.
 *
 * @param pause waits for some milliseconds
 *
 * @example const signIn = signInService(); await signIn(db, 'nerea', 'wrong', '192.0.2.7', now) // { kind: 'wrong' }
 */
export function signInService(pause: (ms: number) => Promise<void> = (ms) => setTimeout(ms)) {
  const everywhere = new RateLimiterMemory({ ...ofAll, keyPrefix: 'everywhere' });
  let waiting = 0;
  const byName = new RateLimiterMemory({ ...perName, keyPrefix: 'name' });
  const byAddress = new RateLimiterMemory({ ...perAddress, keyPrefix: 'address' });
  const nobody = hashPassword('nobody has this password');

  return async (
    db: Queryable,
    name: string,
    password: string,
    address: string,
    now: Instant
  ): Promise<SignInResult> => {
    const key = `${name.toLowerCase()}@${address}`;
    try {
      await byAddress.consume(address);
      await byName.consume(key);
    } catch (refused) {
      if (refused instanceof RateLimiterRes)
        return { kind: 'too many', retryAfterSeconds: Math.ceil(refused.msBeforeNext / 1000) };
      throw refused;
    }
    const wait = waitAfter((await everywhere.get(name.toLowerCase()))?.consumedPoints ?? 0);
    if (wait > 0) {
      if (waiting >= mostWaiting) return { kind: 'too many', retryAfterSeconds: 60 };
      waiting++;
      await pause(wait).finally(() => waiting--);
    }
    const found = await personForSignIn(db, name);
    const matches = await passwordMatches(password, found?.passwordHash ?? (await nobody));
    if (found === null || !matches) {
      await everywhere.consume(name.toLowerCase());
      return { kind: 'wrong' };
    }
    await byName.delete(key);
    await byAddress.reward(address);
    const { passwordHash: _hash, ...person } = found;
    return { kind: 'signed in', person, token: await beginSession(db, person.id, now) };
  };
}
