import { Refusal } from '$lib/core/problem/problem';

/**
 * Why a thread did not read what came from outside: what takes too long or too much memory is refused, anything else stays the error that it is.
 *
 * @param patienceMs how long it was given
 */
export function threadFault(error: unknown, patienceMs: number): unknown {
  if (!(error instanceof Error)) return error;
  const { code } = error as { code?: string };
  if (error.name === 'AbortError')
    return new Refusal('too-large', `Reading it took longer than ${patienceMs / 1000} s.`, 'Send less at once.');
  if (code === 'ERR_WORKER_OUT_OF_MEMORY')
    return new Refusal('too-large', 'Reading it took more memory than there is for it.', 'Send less at once.');
  return error;
}
