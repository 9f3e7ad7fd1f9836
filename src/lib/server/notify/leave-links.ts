import { timingSafeEqual } from 'node:crypto';
import type { SecretBox } from '../base/secrets';

const purpose = 'leave a topic';
/** Bytes of a signature that stand in a link: nobody can guess these. */
const signatureBytes = 15;

/**
 * What stands in the link by which a subscriber leaves a topic, good as long as they subscribe: whoever has it can do nothing else.
 *
 * @example leaveToken(secrets, 31) // 'AAAAH2oS…', 26 characters
 */
export function leaveToken(secrets: SecretBox, channelId: number): string {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32BE(channelId);
  return Buffer.concat([bytes, signatureOf(secrets, bytes)]).toString('base64url');
}

/** The subscriber of a link; null for one that was not made here. @example subscriberOfToken(secrets, token) // 31 */
export function subscriberOfToken(secrets: SecretBox, token: string): number | null {
  const all = Buffer.from(token, 'base64url');
  if (all.length !== 4 + signatureBytes || all.toString('base64url') !== token) return null;
  const bytes = all.subarray(0, 4);
  return timingSafeEqual(all.subarray(4), signatureOf(secrets, bytes)) ? bytes.readUInt32BE() : null;
}

const signatureOf = (secrets: SecretBox, bytes: Buffer): Buffer =>
  secrets.sign(purpose, bytes).subarray(0, signatureBytes);
