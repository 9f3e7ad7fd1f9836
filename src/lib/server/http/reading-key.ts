import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { bearerOf } from '../intake/receive/admit';
import type { KeyUses } from '../intake/receive/key-uses';
import { keyByText } from '../intake/receive/keys';

/** Refuses a request that carries no key by which programs read. @throws Refusal `key-refused` */
export async function refuseUnread(
  { db, clock, uses }: Pick<Context, 'db' | 'clock'> & { readonly uses: KeyUses },
  request: Request
): Promise<void> {
  const text = bearerOf(request);
  const key = text === null ? null : await keyByText(db, text, clock.now());
  if (key === null || !key.scopes.includes('read'))
    throw new Refusal(
      'key-refused',
      'The key is missing, unknown, revoked or has expired, or may not read.',
      'Send a key with the scope "read" as "Authorization: Bearer …"; keys are made on the page Keys.'
    );
  uses.take(key, 0, clock.now()); // when it was last used
}
