// push_keys
import webpush from 'web-push';
import type { SecretBox } from '../base/secrets';
import { oneRow, type Queryable } from '../db/pool';

/** What signs notifications to devices (RFC 8292), in base64url. */
export interface PushKeys {
  readonly publicKey: string;
  readonly privateKey: string;
}

/** The keys of this Bussola, made when they are first needed. Devices that were set up go by them, so that they never change. */
export async function pushKeys(db: Queryable, secrets: SecretBox): Promise<PushKeys> {
  const known = async () =>
    db.rows<{ publicKey: string; sealed: Buffer }>('select public_key as "publicKey", sealed from push_keys');
  if ((await known()).length === 0) {
    const made = webpush.generateVAPIDKeys();
    // Of two processes that make them at once, those of the first count.
    await db.rows('insert into push_keys (id, public_key, sealed) values (1, $1, $2) on conflict (id) do nothing', [
      made.publicKey,
      secrets.seal(made.privateKey)
    ]);
  }
  const { publicKey, sealed } = oneRow(await known());
  return { publicKey, privateKey: secrets.open(sealed) };
}

/** Private keys as they are sealed. */
export const sealedPushKeys = async (db: Queryable): Promise<Buffer[]> =>
  (await db.rows<{ sealed: Buffer }>('select sealed from push_keys')).map(({ sealed }) => sealed);
