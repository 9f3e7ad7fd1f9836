import { timingSafeEqual } from 'node:crypto';
import { after, day, hour, instant, times, type Instant } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';

/** How long the link of a message is good for. */
export const linkGoodFor = times(2, day);
/** Bytes of a signature that stand in a link: a text message has room for no more, and nobody can guess these. */
const signatureBytes = 15;
const purpose = 'acknowledge by link';

/**
 * What stands in the link by which the receiver of a message acknowledges its incidents: the message, until when, and a signature.
 *
 * @example acknowledgeToken(secrets, 204, now) // 'AAAAzAAHmO3k…', 30 characters
 */
export function acknowledgeToken(secrets: SecretBox, messageId: number, now: Instant): string {
  const bytes = Buffer.alloc(7);
  bytes.writeUInt32BE(messageId, 0);
  bytes.writeUIntBE(Math.ceil(after(now, linkGoodFor) / hour), 4, 3);
  return Buffer.concat([bytes, signatureOf(secrets, bytes)]).toString('base64url');
}

/**
 * The message of a link; `expired` for one that was good before, null for one that never was.
 *
 * @example messageOfToken(secrets, token, now) // { kind: 'good', messageId: 204 }
 */
export function messageOfToken(
  secrets: SecretBox,
  token: string,
  now: Instant
): { readonly kind: 'good' | 'expired'; readonly messageId: number } | null {
  const all = Buffer.from(token, 'base64url');
  if (all.length !== 7 + signatureBytes || all.toString('base64url') !== token) return null;
  const bytes = all.subarray(0, 7);
  if (!timingSafeEqual(all.subarray(7), signatureOf(secrets, bytes))) return null;
  const until = instant(bytes.readUIntBE(4, 3) * hour);
  return { kind: now <= until ? 'good' : 'expired', messageId: bytes.readUInt32BE(0) };
}

const signatureOf = (secrets: SecretBox, bytes: Buffer): Buffer =>
  secrets.sign(purpose, bytes).subarray(0, signatureBytes);
