import { Refusal } from '$lib/core/problem/problem';
import { countOf, formOf } from '$lib/core/words/count';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Queryable } from '../db/pool';
import { sealedSecrets } from '../inventory/accounts';
import { sealedOfChannels } from '../notify/channels';
import { sealedPushKeys } from '../notify/push-keys';
import { sealedFactors } from '../people/second-factor';
import { secretBox, type SecretBox } from '../base/secrets';

/**
 * The box of a data folder whose secrets can be opened with it. A key that is missing while there are sealed secrets is not made anew: they could never be opened again.
 *
 * @param key from the environment; null for the file in the folder
 * @throws Refusal when the key is missing or is another one than the secrets were sealed with
 * @example (await openSecrets(db, 'bussola-data', null)).seal('s3cret')
 */
export async function openSecrets(db: Queryable, folder: string, key: string | null): Promise<SecretBox> {
  const ofAccounts = (await sealedSecrets(db)).map(({ account, secret }) => ({
    secret,
    of: `the credential of the account ${account}`
  }));
  const ofChannels = (await sealedOfChannels(db)).map((secret) => ({ secret, of: 'what is secret of a channel' }));
  const ofPeople = (await sealedFactors(db)).map((secret) => ({ secret, of: 'the second factor of a person' }));
  const ofPush = (await sealedPushKeys(db)).map((secret) => ({ secret, of: 'the key that signs notifications' }));
  const sealed = [...ofAccounts, ...ofChannels, ...ofPeople, ...ofPush];
  if (sealed.length > 0 && key === null && !existsSync(join(folder, 'key')))
    throw new Refusal(
      'secrets-key',
      `The key of the secrets is missing: ${countOf(sealed.length, 'credential')} ${formOf(sealed.length, 'is', 'are')} sealed with it.`,
      `Restore the file "key" in ${folder} from a backup, or set BUSSOLA_KEY to the key they were sealed with. To start without them, remove their accounts and channels first.`
    );
  const box = secretBox(folder, key ?? undefined);
  for (const { of, secret } of sealed)
    if (!opens(box, secret))
      throw new Refusal(
        'secrets-key',
        `The key does not open ${of}: it was sealed with another one.`,
        'Set BUSSOLA_KEY to the key it was sealed with, or restore the file "key" in the data folder from a backup.'
      );
  return box;
}

function opens(box: SecretBox, secret: Buffer): boolean {
  try {
    box.open(secret);
    return true;
  } catch {
    return false; // whatever is wrong with it, it does not open
  }
}
