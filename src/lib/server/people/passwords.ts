import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';
import { promisify } from 'node:util';

const derive = promisify<string, Buffer, number, ScryptOptions, Buffer>(scrypt);

/** scrypt (RFC 7914) with N = 2^15, r = 8, p = 1: about 32 MB and a tenth of a second. */
const cost = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 };
const keyLength = 32;

/**
 * Hashes a password for keeping: `scrypt$N$r$p$salt$key`, salt and key in base64.
 *
 * @example await hashPassword('anchor up') // 'scrypt$32768$8$1$…$…'
 */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const key = await derive(password.normalize('NFKC'), salt, keyLength, cost);
  return ['scrypt', cost.N, cost.r, cost.p, salt.toString('base64'), key.toString('base64')].join('$');
}

/**
 * Whether a password is the one behind a hash; compares in constant time.
 *
 * @throws RangeError when the hash is not one of ours
 * @example await passwordMatches('anchor up', hash) // true
 */
export async function passwordMatches(password: string, hash: string): Promise<boolean> {
  const [name, N, r, p, salt, key] = hash.split('$');
  if (name !== 'scrypt' || !salt || !key) throw new RangeError('passwordMatches: not a scrypt hash');
  const expected = Buffer.from(key, 'base64');
  const found = await derive(password.normalize('NFKC'), Buffer.from(salt, 'base64'), expected.length, {
    ...cost,
    N: Number(N),
    r: Number(r),
    p: Number(p)
  });
  return timingSafeEqual(found, expected);
}
