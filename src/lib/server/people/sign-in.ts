import { setTimeout } from 'node:timers/promises';
import { RateLimiterRes } from 'rate-limiter-flexible';
import type { Instant } from '$lib/core/time';
import type { Database, Queryable } from '../db/pool';
import { ownLimits, type Limiter, type MakeLimiter } from '../duties/limits';
import { hashPassword, passwordMatches } from './passwords';
import { personForSignIn, profileOf, type Person, type SignInPerson } from './people';
import { countTry, makeLink, takeLink } from './links';
import { takeCode } from './second-factor';
import { beginSession, type SignInFrom } from './sessions';
import type { SecretBox } from '../base/secrets';

export type SignInResult =
  | { readonly kind: 'signed in'; readonly person: Person; readonly token: string }
  /** The password is right, and a second factor is needed: with the token of this half sign-in. */
  | { readonly kind: 'second factor'; readonly person: Person; readonly token: string }
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
/** Wrong codes of a second factor for one person, from wherever: who knows their password does not find a code out. */
const wrongCodes = { points: 20, duration: 3600 };
/** Tries that wait at the same time; more are refused. */
const mostWaiting = 200;

/**
 * Signs people in. Wrong tries are limited by name and address together and by address; those for one name from everywhere are slowed down. An unknown name takes as long as a wrong password, so neither tells the other.
 *
 * @param limits what tries are counted by: of this process, or of all on its database
 * @param pause waits for some milliseconds
 *
 * @example const signIn = signInService(); await signIn.withPassword(db, 'nerea', 'wrong', { address: '192.0.2.7', agent: '' }, now) // { kind: 'wrong' }
 */
export function signInService(
  limits: MakeLimiter = ownLimits,
  pause: (ms: number) => Promise<void> = (ms) => setTimeout(ms)
) {
  const everywhere = limits({ ...ofAll, keyPrefix: 'everywhere' });
  let waiting = 0;
  const byName = limits({ ...perName, keyPrefix: 'name' });
  const byAddress = limits({ ...perAddress, keyPrefix: 'address' });
  const codes = limits({ ...wrongCodes, keyPrefix: 'code' });
  const nobody = hashPassword('nobody has this password');

  const isFull = async (name: string, address: string): Promise<number | null> =>
    (await fullFor(byAddress, address)) ?? (await fullFor(byName, keyOf(name, address)));

  const succeeded = async (name: string, address: string): Promise<void> => {
    await byName.delete(keyOf(name, address));
    await byAddress.reward(address);
  };

  /** Whoever has a name and a password, after a wait where many tries were wrong. */
  const check = async (
    db: Queryable,
    name: string,
    password: string,
    address: string
  ): Promise<SignInPerson | Extract<SignInResult, { readonly kind: 'wrong' | 'too many' }>> => {
    const retryAfterSeconds = await isFull(name, address);
    if (retryAfterSeconds !== null) return { kind: 'too many', retryAfterSeconds };
    const wait = waitAfter((await everywhere.get(name.toLowerCase()))?.consumedPoints ?? 0);
    if (wait > 0) {
      if (waiting >= mostWaiting) return { kind: 'too many', retryAfterSeconds: 60 };
      waiting++;
      await pause(wait).finally(() => waiting--);
    }
    const found = await personForSignIn(db, name);
    const matches = await passwordMatches(password, found?.passwordHash ?? (await nobody));
    if (found?.passwordHash && matches) return found;
    await everywhere.consume(name.toLowerCase());
    return { kind: 'wrong' };
  };

  return {
    /** @param name or mail address */
    withPassword: async (
      db: Queryable,
      name: string,
      password: string,
      from: SignInFrom,
      now: Instant
    ): Promise<SignInResult> => {
      const found = await check(db, name, password, from.address);
      if ('kind' in found) return found;
      // What counts as a try is forgotten only once all of a sign-in is right.
      if (!found.hasFactor) await succeeded(name, from.address);
      return begin(db, found, from, now);
    },

    /** Signs somebody in whom another service knows: with their second factor, if they have one. */
    withIssuer: async (db: Queryable, person: Person, from: SignInFrom, now: Instant): Promise<SignInResult> => {
      const found = await personForSignIn(db, person.name);
      return found === null ? { kind: 'wrong' } : begin(db, found, from, now);
    },

    /** Whether a password is that of somebody who is signed in, counted like a try to sign in. */
    isOwn: async (
      db: Queryable,
      name: string,
      password: string,
      address: string
    ): Promise<'right' | 'wrong' | 'too many'> => {
      const found = await check(db, name, password, address);
      if ('kind' in found) return found.kind;
      await succeeded(name, address);
      return 'right';
    },

    /**
     * The second half of a sign-in: a code of the second factor, or one for recovery.
     *
     * @param half the token of the first half
     * @returns `over` when the half sign-in is over: expired, used, or after five wrong codes
     */
    withCode: async (
      db: Database,
      secrets: SecretBox,
      half: string,
      code: string,
      from: SignInFrom,
      now: Instant
    ): Promise<SignInResult | { readonly kind: 'over' }> => {
      const whose = await countTry(db, half, now);
      const person = whose === null ? null : await profileOf(db, whose);
      if (person === null || person.disabledAt !== null) return { kind: 'over' };
      const retryAfterSeconds = await fullFor(codes, person.id);
      if (retryAfterSeconds !== null) return { kind: 'too many', retryAfterSeconds };
      const token = await db.transaction(async (within) => {
        if (!(await takeCode(within, secrets, person.id, code, now))) return null;
        return (await takeLink(within, 'factor', half, now)) === null
          ? null
          : beginSession(within, person.id, now, from);
      });
      if (token === null) {
        await everywhere.consume(person.name.toLowerCase());
        return { kind: 'wrong' };
      }
      await codes.reward(person.id);
      await succeeded(person.name, from.address);
      const { id, name, displayName, role, zone, dateLocale } = person;
      return { kind: 'signed in', person: { id, name, displayName, role, zone, dateLocale }, token };
    }
  };
}

export type SignInService = ReturnType<typeof signInService>;

/** Takes one of the tries that somebody has. @returns after how many seconds there is another; null when this is one */
async function fullFor(limiter: Limiter, key: string | number): Promise<number | null> {
  try {
    await limiter.consume(key);
    return null;
  } catch (refused) {
    if (refused instanceof RateLimiterRes) return Math.ceil(refused.msBeforeNext / 1000);
    throw refused;
  }
}

/** Begins a session, or the half of one where a second factor is needed. */
async function begin(
  db: Queryable,
  { passwordHash: _hash, hasFactor, ...person }: SignInPerson,
  from: SignInFrom,
  now: Instant
): Promise<SignInResult> {
  return hasFactor
    ? { kind: 'second factor', person, token: await makeLink(db, 'factor', person.id, now) }
    : { kind: 'signed in', person, token: await beginSession(db, person.id, now, from) };
}

const keyOf = (name: string, address: string): string => `${name.toLowerCase()}@${address}`;
