// people (factor), recovery_codes
import { createHash, randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import type { Instant } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';

/** Seconds of a code, and codes before and after the present one that count, for clocks that differ. */
const [period, tolerated] = [30, 1];
/** Recovery codes that a person gets. */
const codes = 10;

const totpOf = (secret: Secret, account = ''): TOTP =>
  new TOTP({ issuer: 'Bussola', label: account, secret, period, digits: 6, algorithm: 'SHA1' });

/** A new secret for a second factor (RFC 6238), and the address by which authenticators take it. @example newFactor('nerea').uri // 'otpauth://totp/Bussola:nerea?…' */
export function newFactor(name: string): { readonly secret: string; readonly uri: string } {
  const secret = new Secret({ size: 20 });
  return { secret: secret.base32, uri: totpOf(secret, name).toString() };
}

/** The step of time of a code by a secret; null when the code is wrong. */
function stepOf(secret: Secret, code: string, now: Instant): number | null {
  const token = code.replaceAll(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return null;
  const delta = totpOf(secret).validate({ token, timestamp: now, window: tolerated });
  return delta === null ? null : Math.floor(now / 1000 / period) + delta;
}

/**
 * Gives a person a second factor, proved by one of its codes.
 *
 * @param secret in base32, as {@link newFactor} made it
 * @returns codes for recovery, of which only hashes are stored; null when the code is wrong
 */
export async function setFactor(
  within: Queryable,
  secrets: SecretBox,
  personId: number,
  secret: string,
  code: string,
  now: Instant
): Promise<string[] | null> {
  const step = stepOf(Secret.fromBase32(secret), code, now);
  if (step === null) return null;
  await within.rows('update people set factor = $2, factor_step = $3 where id = $1', [
    personId,
    secrets.seal(secret),
    step
  ]);
  return renewCodes(within, personId);
}

/** Gives a person other codes for recovery; those before count no more. */
export async function renewCodes(within: Queryable, personId: number): Promise<string[]> {
  const made = Array.from({ length: codes }, newCode);
  await within.rows('delete from recovery_codes where person_id = $1', [personId]);
  for (const one of made)
    await within.rows('insert into recovery_codes (person_id, code_hash) values ($1, $2)', [personId, hashOf(one)]);
  return made;
}

export async function removeFactor(within: Queryable, personId: number): Promise<void> {
  await within.rows('update people set factor = null, factor_step = 0 where id = $1', [personId]);
  await within.rows('delete from recovery_codes where person_id = $1', [personId]);
}

/**
 * Uses a code of a person's second factor, or one for recovery: each counts once.
 *
 * @returns whether it was right
 */
export async function takeCode(
  within: Queryable,
  secrets: SecretBox,
  personId: number,
  code: string,
  now: Instant
): Promise<boolean> {
  const [row] = await within.rows<{ factor: Buffer | null }>('select factor from people where id = $1', [personId]);
  if (!row?.factor) return false;
  const step = stepOf(Secret.fromBase32(secrets.open(row.factor)), code, now);
  const taken =
    step === null
      ? await within.rows('delete from recovery_codes where person_id = $1 and code_hash = $2 returning 1', [
          personId,
          hashOf(code)
        ])
      : await within.rows('update people set factor_step = $2 where id = $1 and factor_step < $2 returning 1', [
          personId,
          step
        ]);
  return taken.length > 0;
}

/** Letters and digits that are not taken for each other. */
const letters = 'abcdefghjkmnpqrstuvwxyz23456789';
function newCode(): string {
  // 50 bits: nobody tries these out, so that a plain hash is enough.
  const text = [...randomBytes(10)].map((byte) => letters[byte % letters.length]).join('');
  return `${text.slice(0, 5)}-${text.slice(5)}`;
}

const hashOf = (code: string): Buffer =>
  createHash('sha256')
    .update(code.toLowerCase().replaceAll(/[^a-z0-9]/g, ''))
    .digest();

/** Sealed secrets of second factors, for who checks that they can be opened. */
export const sealedFactors = async (db: Queryable): Promise<Buffer[]> =>
  (await db.rows<{ factor: Buffer }>('select factor from people where factor is not null order by id')).map(
    ({ factor }) => factor
  );
