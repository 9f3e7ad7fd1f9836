// remembered_answers
import { createHash } from 'node:crypto';
import { Refusal } from '$lib/core/problem/problem';
import { before, hour, times, type Clock } from '$lib/core/time';
import type { Database } from '../db/pool';
import type { SecretBox } from '../base/secrets';

/** How long an answer is remembered. */
const remembered = times(24, hour);

/** What remembering answers needs. */
export interface Remembering {
  readonly db: Database;
  readonly clock: Clock;
  readonly secrets: SecretBox;
}

/** One request that may be sent again. */
export interface OnceRequest {
  /** Who sends it: a key is theirs alone. */
  readonly caller: string;
  readonly key: string;
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}

/**
 * The key under which a request may be sent again (Idempotency-Key); null where it has none.
 *
 * @throws Refusal `invalid` for what is no key
 * @example onceKey(new Headers({ 'idempotency-key': '"a1"' })) // 'a1'
 */
export function onceKey(headers: Headers): string | null {
  const given = headers.get('idempotency-key');
  if (given === null) return null;
  const key = given.trim().replace(/^"(.*)"$/, '$1');
  if (/^[\x21-\x7e]{1,200}$/.test(key)) return key;
  throw new Refusal(
    'invalid',
    'The Idempotency-Key is empty, longer than 200 characters, or has some that no key may have.',
    'Send a new UUID with each request.'
  );
}

/**
 * Does something at most once for each key: sent again, the first answer is given again. What was refused is forgotten, since nothing was done.
 *
 * @param work what is done, with its answer as text
 * @throws Refusal `key-reused` where the key stood for something else; `still-going` where the first request has not ended
 */
export async function once(
  { db, clock, secrets }: Remembering,
  { caller, key, method, path, body }: OnceRequest,
  work: () => Promise<Response>
): Promise<Response> {
  const now = clock.now();
  const request = createHash('sha256')
    .update(JSON.stringify([method, path, body]))
    .digest('base64');
  await db.rows('delete from remembered_answers where made_at < $1', [before(now, remembered)]);
  const begun = await db.rows(
    `insert into remembered_answers (caller, key, request, made_at) values ($1, $2, $3, $4)
     on conflict do nothing returning key`,
    [caller, key, request, now]
  );
  if (begun.length === 0) return again({ db, secrets }, { caller, key, request });
  try {
    const response = await work();
    const answer = JSON.stringify([
      response.status,
      response.headers.get('content-type'),
      await response.clone().text()
    ]);
    await db.rows('update remembered_answers set answer = $3 where caller = $1 and key = $2', [
      ...[caller, key, secrets.seal(answer)]
    ]);
    return response;
  } catch (error) {
    if (error instanceof Refusal)
      await db.rows('delete from remembered_answers where caller = $1 and key = $2', [caller, key]);
    throw error;
  }
}

async function again(
  { db, secrets }: Pick<Remembering, 'db' | 'secrets'>,
  { caller, key, request }: { readonly caller: string; readonly key: string; readonly request: string }
): Promise<Response> {
  const [first] = await db.rows<{ request: string; answer: Buffer | null }>(
    'select request, answer from remembered_answers where caller = $1 and key = $2',
    [caller, key]
  );
  if (first !== undefined && first.request !== request)
    throw new Refusal(
      'key-reused',
      'The Idempotency-Key stood for another request.',
      'Send a new key with each request; the same one only with the same request.'
    );
  if (first === undefined || first.answer === null)
    throw new Refusal(
      'still-going',
      'The first request with this Idempotency-Key has not ended, or it is not known whether it was done.',
      'Look whether it was done. If it was not, send it again with a new key.'
    );
  const [status, contentType, text] = JSON.parse(secrets.open(first.answer)) as [number, string | null, string];
  const headers = { 'idempotency-replayed': 'true', ...(contentType !== null && { 'content-type': contentType }) };
  return new Response(text === '' ? null : text, { status, headers });
}
