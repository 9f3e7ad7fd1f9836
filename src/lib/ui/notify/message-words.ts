/** What kinds of messages are called. */
export const kindWords = {
  confirm: 'confirmation',
  raised: 'raised',
  cleared: 'cleared',
  passed: 'raised and cleared',
  dismissed: 'closed',
  grouped: 'several incidents',
  note: 'about the watch',
  join: 'invitation',
  reset: 'new password',
  unjudged: 'cannot be judged',
  summary: 'summary',
  test: 'test'
} as const;

/**
 * How a message stands, in a few words.
 *
 * @example stateWords('queued', 'ECONNREFUSED') // 'not sent yet: ECONNREFUSED; tried again since'
 */
export function stateWords(
  state: 'queued' | 'sent' | 'failed' | 'superseded' | 'withdrawn',
  lastError: string | null
): string {
  if (state === 'failed') return `failed: ${lastError ?? 'unknown'}`;
  if (state === 'withdrawn') return 'not sent, since its channel was removed or its person disabled';
  if (state === 'superseded') return 'not sent, since the clearing message covers both';
  if (state === 'queued') return lastError === null ? 'queued' : `not sent yet: ${lastError}; tried again since`;
  return 'sent';
}
