import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Refusal } from '$lib/core/problem/problem';

/** Requests that a key may make in so many seconds. */
const [most, seconds] = [1200, 60];

/** How many requests keys make: each so many a minute, said in the headers of every answer. */
export class RequestRate {
  readonly #limiter: RateLimiterMemory;

  constructor(
    private readonly points = most,
    private readonly within = seconds
  ) {
    this.#limiter = new RateLimiterMemory({ points, duration: within });
  }

  /**
   * Counts a request of a key.
   *
   * @returns headers for its answer (RateLimit and RateLimit-Policy of the IETF draft on rate limit headers)
   * @throws RateExceeded
   * @example await new RequestRate().count('deploys') // { 'ratelimit-policy': '"key";q=1200;w=60', ratelimit: '"key";r=1199;t=60' }
   */
  async count(key: string): Promise<Readonly<Record<string, string>>> {
    try {
      return this.#headers(await this.#limiter.consume(key));
    } catch (refused) {
      if (!(refused instanceof RateLimiterRes)) throw refused;
      throw new RateExceeded(this.points, this.within, this.#headers(refused));
    }
  }

  #headers({ remainingPoints, msBeforeNext }: RateLimiterRes): Record<string, string> {
    const left = Math.max(0, remainingPoints);
    const wait = Math.max(1, Math.ceil(msBeforeNext / 1000));
    return {
      'ratelimit-policy': `"key";q=${this.points};w=${this.within}`,
      ratelimit: `"key";r=${left};t=${wait}`,
      ...(left === 0 && { 'retry-after': String(wait) })
    };
  }
}

/** A key made more requests than it may. */
export class RateExceeded extends Refusal {
  constructor(
    most: number,
    within: number,
    readonly headers: Readonly<Record<string, string>>
  ) {
    super(
      'too-many-requests',
      `The key has made more than ${most} requests within ${within} s.`,
      'Wait as long as the header Retry-After says, and make fewer requests.'
    );
  }
}
