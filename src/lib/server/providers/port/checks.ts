import { ProviderError, type AccessCheck } from './provider';

/** What was tried and what came of it. */
export interface AccessTest {
  readonly checks: AccessCheck[];
  pass(name: string, says: string): void;
  /** Tries a right; notes that it is there or which one is missing. @returns what the call gave, null when it failed */
  right<T>(name: string, call: () => Promise<T>, says: (result: T) => string): Promise<T | null>;
}

/**
 * Tests a credential step by step: the first call tells reach, clock and credential apart, each further one tells of a right.
 *
 * @param first whatever needs a valid credential
 * @returns the test to go on with; null when it cannot go on
 */
export async function accessTest(
  host: string,
  first: () => Promise<unknown>
): Promise<{ test: AccessTest; isReachable: boolean }> {
  const checks: AccessCheck[] = [];
  const test: AccessTest = {
    checks,
    pass: (name, says) => checks.push({ name, passed: true, says, remedy: null }),
    right: async (name, call, says) => {
      try {
        const result = await call();
        test.pass(name, says(result));
        return result;
      } catch (error) {
        if (!(error instanceof ProviderError)) throw error;
        checks.push({ name, passed: false, says: error.message, remedy: error.remedy });
        return null;
      }
    }
  };
  const failure = await first().then(
    () => null,
    (error: unknown) => {
      if (error instanceof ProviderError) return error;
      throw error;
    }
  );
  const steps = ['reach', 'clock', 'signature'] as const;
  const words = [`${host} answers.`, 'The clocks agree to within 5 min.', 'The key and its secret are accepted.'];
  const failed =
    failure?.code === 'clock' ? 1 : failure?.code === 'signature' ? 2 : failure?.code === 'permission' ? 3 : 0;
  const passed = failure === null ? 3 : failed;
  steps.slice(0, passed).forEach((name, i) => test.pass(name, words[i] as string));
  if (failure === null || failed === 3) return { test, isReachable: true };
  checks.push({ name: steps[failed] ?? 'reach', passed: false, says: failure.message, remedy: failure.remedy });
  return { test, isReachable: false };
}
