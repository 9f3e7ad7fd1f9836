import { Refusal } from '$lib/core/problem/problem';
import { createCipheriv, createDecipheriv, createHmac, hkdfSync, randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Seals and opens secrets at rest: AES-256-GCM, a fresh 96-bit nonce each, laid out as nonce, tag, ciphertext. */
export interface SecretBox {
  seal(secret: string): Buffer;
  /** @throws when the bytes were changed or sealed with another key */
  open(sealed: Buffer): string;
  /**
   * The signature of some bytes for one purpose: HMAC-SHA-256 with a key derived for it, so that what is signed for one purpose counts for no other.
   *
   * @example secretBox('bussola-data').sign('acknowledge', bytes).length // 32
   */
  sign(purpose: string, bytes: Buffer): Buffer;
}

/**
 * The box of a data folder: its key is `BUSSOLA_KEY` (32 bytes, base64) when given, else the file `key` of mode 0600, made on first use.
 *
 * @throws Refusal when the key is not 32 bytes
 * @example secretBox('bussola-data').open(secretBox('bussola-data').seal('s3cret')) // 's3cret'
 */
export function secretBox(folder: string, fromEnvironment?: string): SecretBox {
  const file = join(folder, 'key');
  if (fromEnvironment === undefined && !existsSync(file))
    writeFileSync(file, randomBytes(32).toString('base64'), { mode: 0o600, flag: 'wx' });
  const key = Buffer.from(fromEnvironment ?? readFileSync(file, 'utf8'), 'base64');
  if (key.length !== 32)
    throw new Refusal(
      'secrets-key',
      `The key for secrets has ${key.length} bytes, not 32.`,
      'Set BUSSOLA_KEY to 32 random bytes in base64, or restore the file "key" of the data folder.'
    );
  return {
    seal: (secret) => {
      const nonce = randomBytes(12);
      const cipher = createCipheriv('aes-256-gcm', key, nonce);
      const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
      return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
    },
    sign: (purpose, bytes) =>
      createHmac('sha256', Buffer.from(hkdfSync('sha256', key, '', `bussola ${purpose}`, 32)))
        .update(bytes)
        .digest(),
    open: (sealed) => {
      const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, 12));
      decipher.setAuthTag(sealed.subarray(12, 28));
      return Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString('utf8');
    }
  };
}
