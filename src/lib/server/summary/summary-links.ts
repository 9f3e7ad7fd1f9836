import { timingSafeEqual } from 'node:crypto';
import { Refusal } from '$lib/core/problem/problem';
import { day, times, type Instant } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';
import { summaryById, type StoredSummary } from './summaries';

/** How long the link of a summary is good. */
export const linkGoodFor = times(90, day);
/** Bytes of a signature that stand in a link: nobody can guess these. */
const signatureBytes = 18;
/** Two numbers of four bytes each, before the signature. */
const tokenBytes = 8;
const purpose = 'read a summary by link';

/**
 * What stands in the link by which anybody reads a summary: which one, which of its links, and a signature. Nothing that is stored holds it.
 *
 * @example summaryToken(secrets, { id: 7, linkNumber: 0 }) // 'AAAABwAAAADq…', 36 characters
 */
export function summaryToken(secrets: SecretBox, { id, linkNumber }: Pick<StoredSummary, 'id' | 'linkNumber'>): string {
  const bytes = Buffer.alloc(tokenBytes);
  bytes.writeUInt32BE(id, 0);
  bytes.writeUInt32BE(linkNumber, 4);
  return Buffer.concat([bytes, signatureOf(secrets, bytes)]).toString('base64url');
}

/** The summary that a link leads to; null for one that was ended, has expired or never was. */
export async function summaryOfToken(
  { db, secrets }: { readonly db: Queryable; readonly secrets: SecretBox },
  token: string,
  now: Instant
): Promise<StoredSummary | null> {
  const all = Buffer.from(token, 'base64url');
  if (all.length !== tokenBytes + signatureBytes || all.toString('base64url') !== token) return null;
  const bytes = all.subarray(0, tokenBytes);
  if (!timingSafeEqual(all.subarray(tokenBytes), signatureOf(secrets, bytes))) return null;
  const found = await summaryById(db, bytes.readUInt32BE(0));
  if (found === null || found.linkNumber !== bytes.readUInt32BE(4)) return null;
  return found.linkUntil !== null && now < found.linkUntil ? found : null;
}

const signatureOf = (secrets: SecretBox, bytes: Buffer): Buffer =>
  secrets.sign(purpose, bytes).subarray(0, signatureBytes);

export const noSuchSummaryLink = (): Refusal =>
  new Refusal(
    'not-found',
    'This link leads to no summary any more.',
    'It may have expired or was ended. Ask whoever sent it for another.'
  );
