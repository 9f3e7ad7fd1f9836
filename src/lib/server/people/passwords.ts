import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';
import { promisify } from 'node:util';
import zxcvbn from 'zxcvbn';

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

/** Characters of a password. */
export const passwordLength = { least: 10, most: 200 };
/** How hard to guess it has to be, of 0 to 4: 3 is 10^8 to 10^10 guesses. */
const leastScore = 3;

/**
 * Why a password may not be chosen; null when it may. Nothing but length and how hard it is to guess counts, by zxcvbn (USENIX Security 2016).
 *
 * @param words that are known of the person: their names and address
 * @example weaknessOf('nerea-olmo-2026', ['Nerea Olmo']) // 'It is easy to guess. …'
 */
export function weaknessOf(password: string, words: readonly string[]): string | null {
  const length = [...password].length;
  if (length < passwordLength.least) return `It has ${length} characters, and needs ${passwordLength.least}.`;
  if (length > passwordLength.most) return `It may have ${passwordLength.most} characters at most.`;
  const { score, feedback } = zxcvbn(password.slice(0, 100), [
    'bussola',
    ...words.flatMap((one) => [one, ...one.split(/\W+/)])
  ]);
  if (score >= leastScore) return null;
  const why = [feedback.warning, ...feedback.suggestions].filter((text) => text !== '').join(' ');
  return `It is easy to guess. ${why === '' ? 'Use several words that do not belong together.' : why}`;
}
