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

/** Tries with a wrong password: for one name from one address, and from one address for all names, within fifteen minutes. */
const perName = { points: 8, duration: 900 };
const perAddress = { points: 40, duration: 900 };

/**
 * Signs people in. Wrong tries are limited by name and by address; an unknown name takes as long as a wrong password, so neither tells the other.
 *
 * @example const signIn = signInDesk(); await signIn(db, 'nerea', 'wrong', '192.0.2.7', now) // { kind: 'wrong' }
 */
export function signInDesk() {
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
    const found = await personForSignIn(db, name);
    const matches = await passwordMatches(password, found?.passwordHash ?? (await nobody));
    if (found === null || !matches) return { kind: 'wrong' };
    await byName.delete(key);
    await byAddress.reward(address);
    const { passwordHash: _hash, ...person } = found;
    return { kind: 'signed in', person, token: await beginSession(db, person.id, now) };
  };
}
