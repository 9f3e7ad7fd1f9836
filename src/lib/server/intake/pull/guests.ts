import type { Account } from '../../inventory/accounts';
import { accessOf, providerOf, type Intake } from '../ledger/intake';
import { ProviderError } from '../../providers/port/provider';
import { noteGuestOn, resourcesOfAccount, type Resource } from '../../inventory/resources';

/**
 * Switches guest-level metrics on, through the provider's interface, for resources of an account that can report them and do not yet. It stops at the first refusal.
 *
 * @returns how many were switched on, and in words why not all of them
 */
export async function enableGuests(
  intake: Pick<Intake, 'db' | 'secrets' | 'guards' | 'providers' | 'changes'>,
  account: Account,
  which: (resource: Resource) => boolean
): Promise<{ switched: number; problem: string | null }> {
  const { db, providers, changes } = intake;
  const provider = providerOf(providers, account);
  if (!provider.enableGuest) return { switched: 0, problem: 'This provider has no way to switch them on from here.' };
  const wanted = (await resourcesOfAccount(db, account.id)).filter(
    (resource) => resource.guest === 'off' && resource.endedAt === null && which(resource)
  );
  const access = await accessOf(intake, account);
  const switched: number[] = [];
  let problem: string | null = null;
  for (const { id, providerId } of wanted) {
    try {
      await provider.enableGuest(access, providerId);
      switched.push(id);
    } catch (error) {
      if (!(error instanceof ProviderError)) throw error;
      problem = `${error.message} ${error.remedy}`;
      break;
    }
  }
  await noteGuestOn(db, account.id, switched);
  changes.tell('account', { accountId: account.id });
  return { switched: switched.length, problem };
}
