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

/**
 * The guard of one account: so many calls at once and a second (a token bucket), tried again with growing, jittered pauses, and a rest after many failures
 * on end, so that a broken provider is not hammered. One for each account: a slow or broken one never delays another.
 *
 * @example const guard = accountGuard(usualLimits); await guard().run(() => fetch(url))
 */
export function accountGuard(limits: GuardLimits): () => Guard {
  const bucket = new TokenBucket({ bucketSize: limits.burst, tokensPerInterval: limits.perSecond, interval: 'second' });
  bucket.content = limits.burst;
  const policy: IPolicy = wrap(
    bulkhead(limits.atOnce, Number.MAX_SAFE_INTEGER),
    retry(handleWhen(transient), {
      maxAttempts: limits.tries - 1,
      backoff: new ExponentialBackoff({ initialDelay: 200, maxDelay: patientMs })
    }),
    circuitBreaker(handleWhen(transient), {
      halfOpenAfter: limits.restMs,
      breaker: new ConsecutiveBreaker(limits.failuresToRest)
    })
  );
  return () => {
    const meter = freshMeter();
    return {
      meter,
      run: async <T>(call: () => Promise<T>): Promise<T> => {
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
          throw new ProviderError(
            'paused',
            'After many failures on end, Bussola leaves this provider alone for a moment.',
            'Nothing: it is tried again by itself. What was wrong before stands in the list of errors.',
            { cause: error }
          );
        }
      }
    };
  };
}
