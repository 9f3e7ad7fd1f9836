import { Refusal } from '$lib/core/problem/problem';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';

/** How often one link may be used in a minute, over all who have it, and what one address may try that is no link. */
const ofLink = new RateLimiterMemory({ points: 240, duration: 60, keyPrefix: 'link' });
const ofAddress = new RateLimiterMemory({ points: 60, duration: 60, keyPrefix: 'address' });

/** @throws Refusal `too-many-requests` */
export const countUse = (linkId: number): Promise<void> =>
  counted(ofLink, String(linkId), 'This link is read by too many at once.');

/** @throws Refusal `too-many-requests` */
export const countMiss = (address: string): Promise<void> =>
  counted(ofAddress, address, 'Too many links were tried that are not there.');

async function counted(limiter: RateLimiterMemory, key: string, message: string): Promise<void> {
  try {
    await limiter.consume(key);
  } catch (refused) {
    if (!(refused instanceof RateLimiterRes)) throw refused;
    throw new Refusal('too-many-requests', message, 'It can be read again in a minute.');
  }
}
