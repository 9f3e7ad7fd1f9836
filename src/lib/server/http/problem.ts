import { json } from '@sveltejs/kit';
import { problemCodes, problemOf, type Problem } from '$lib/core/problem/problem';

/** Seconds after which a request that came at a bad time may be tried again. */
const retryAfter = '10';

/**
 * A problem as RFC 9457 writes it (`application/problem+json`), with all that {@link Problem} says besides.
 *
 * @example problemResponse(new Refusal('name-taken', …)).status // 409
 */
export function problemResponse(problem: Problem): Response {
  const { status, title } = problemCodes[problem.code];
  return json(
    { type: `/api/v1/problems#${problem.code}`, title, status, detail: problem.message, ...problemOf(problem) },
    {
      status,
      headers: {
        'content-type': 'application/problem+json',
        ...(status === 429 || status === 503 ? { 'retry-after': retryAfter } : {})
      }
    }
  );
}
