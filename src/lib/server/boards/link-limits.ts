import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Refusal } from '../base/refusal';

/** What one link may be asked for in a minute, over all who have it, and what one address may try that is no link. */
const ofLink = new RateLimiterMemory({ points: 240, duration: 60, keyPrefix: 'link' });
const ofAddress = new RateLimiterMemory({ points: 60, duration: 60, keyPrefix: 'address' });

/** A link, or an address that tries links, that asks too often. */
export class TooOften extends Refusal {
  override readonly status = 429;
}

/** @throws TooOften */
export const countUse = (linkId: number): Promise<void> =>
  counted(ofLink, String(linkId), 'This link is read by too many at once.');

/** @throws TooOften */
export const countMiss = (address: string): Promise<void> =>
  counted(ofAddress, address, 'Too many links were tried that are not there.');

async function counted(limiter: RateLimiterMemory, key: string, message: string): Promise<void> {
  try {
    await limiter.consume(key);
  } catch (refused) {
    if (!(refused instanceof RateLimiterRes)) throw refused;
    throw new TooOften(message, 'It can be read again in a minute.');
  }
}
