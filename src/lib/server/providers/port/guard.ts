import {
  BrokenCircuitError,
  bulkhead,
  circuitBreaker,
  ConsecutiveBreaker,
  ExponentialBackoff,
  handleWhen,
  retry,
  wrap,
  type IPolicy
} from 'cockatiel';
import { TokenBucket } from 'limiter';
import type { Guard, GuardLimits, Meter } from './meter';
export type { GuardLimits } from './meter';
import { ProviderError } from './provider';

export const usualLimits: GuardLimits = {
  atOnce: 4,
  perSecond: 40,
  burst: 80,
  tries: 3,
  failuresToRest: 9,
  restMs: 15_000
};

export const freshMeter = (): Meter => ({ requests: 0, throttled: 0, clockAheadMs: null });

/** No limits and no second try: for testing a credential, where the first failure is the answer. */
export const plainGuard = (): Guard => {
  const meter = freshMeter();
  return {
    meter,
    run: async (call) => {
      meter.requests++;
      return call();
    }
  };
};

/** Waiting longer than this for a provider that asks to slow down is left to the next pull. */
const patientMs = 3000;

const transient = (error: Error): boolean =>
  error instanceof ProviderError &&
  (['unreachable', 'unavailable', 'malformed'].includes(error.code) ||
    (error.code === 'throttled' && (error.retryAfter ?? 0) <= patientMs));

/** Rests that processes share. */
export interface Rests {
  /** Whether another process leaves the provider alone now. */
  areOn(): boolean;
  /** This process leaves it alone for so many ms. */
  begin(ms: number): void;
}
const noRests: Rests = { areOn: () => false, begin: () => undefined };

const paused = (cause?: unknown): ProviderError =>
  new ProviderError(
    'paused',
    'After many failures on end, Bussola leaves this provider alone for a moment.',
    'Nothing: it is tried again by itself. What was wrong before stands in the list of errors.',
    { cause }
  );

/**
 * The guard of one account: so many calls at once and a second (a token bucket), tried again with growing, jittered pauses, and a rest after many failures
 * on end, so that a broken provider is not hammered. One for each account: a slow or broken one never delays another.
 *
 * @param rests what other processes know of its provider, and are told: one that is left alone by one of them is left alone by all
 * @example const guard = accountGuard(usualLimits); await guard().run(() => fetch(url))
 */
export function accountGuard(limits: GuardLimits, rests: Rests = noRests): () => Guard {
  const bucket = new TokenBucket({ bucketSize: limits.burst, tokensPerInterval: limits.perSecond, interval: 'second' });
  bucket.content = limits.burst;
  const breaker = circuitBreaker(handleWhen(transient), {
    halfOpenAfter: limits.restMs,
    breaker: new ConsecutiveBreaker(limits.failuresToRest)
  });
  breaker.onBreak(() => rests.begin(limits.restMs));
  const policy: IPolicy = wrap(
    bulkhead(limits.atOnce, Number.MAX_SAFE_INTEGER),
    retry(handleWhen(transient), {
      maxAttempts: limits.tries - 1,
      backoff: new ExponentialBackoff({ initialDelay: 200, maxDelay: patientMs })
    }),
    breaker
  );
  return () => {
    const meter = freshMeter();
    return {
      meter,
      run: async <T>(call: () => Promise<T>): Promise<T> => {
        if (rests.areOn()) throw paused();
        let last: unknown = null;
        try {
          return await policy.execute(async () => {
            await bucket.removeTokens(1);
            meter.requests++;
            try {
              return await call();
            } catch (error) {
              last = error;
              if (error instanceof ProviderError && error.code === 'throttled') meter.throttled++;
              throw error;
            }
          });
        } catch (error) {
          if (!(error instanceof BrokenCircuitError)) throw error;
          if (last instanceof ProviderError) throw last;
          throw paused(error);
        }
      }
    };
  };
}
