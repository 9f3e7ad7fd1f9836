import { Refusal } from '$lib/core/problem/problem';
import { accessOf, accessToTest, providerOf, type Intake } from '../intake/ledger/intake';
import { accountById } from '../inventory/accounts';
import type { Resource } from '../inventory/resources';
import type { Acts } from '../providers/port/acts';

export type ActParts = Pick<Intake, 'db' | 'secrets' | 'guards' | 'providers'>;

/** What can be done at the provider of an account. @throws Refusal `not-found` when the account is gone, `invalid` when nothing can be done there */
export async function actsOf({ db, secrets, guards, providers }: ActParts, accountId: number): Promise<Acts> {
  const account = await accountById(db, accountId);
  if (account === null)
    throw new Refusal('not-found', 'Its account was removed.', 'Connect the account again, if it is needed.');
  const { endpoint, keyId } = account;
  const provider = mayAct(providers, account) ? providerOf(providers, account) : null;
  if (!provider?.acts)
    throw new Refusal('invalid', `Nothing can be done with resources of ${account.name}.`, 'Do it at the provider.');
  const access = await accessOf({ db, secrets, guards, providers }, account);
  // What is asked goes through the account's guard, as all else; what is told is told once.
  const { act } = provider.acts(accessToTest(guards, { endpoint, keyId, secret: access.secret }));
  return { ...provider.acts(access), act };
}

/** A resource as whoever may act on it sees it; null for nobody's and where nothing can be done. @param accounts on whose resources somebody may act; null for all */
export function actableBy(
  { providers }: Pick<Intake, 'providers'>,
  accounts: readonly number[] | null,
  resource: Resource | null
): { readonly id: number; readonly name: string } | null {
  if (resource === null || resource.endedAt !== null) return null;
  if (accounts !== null && !accounts.includes(resource.accountId)) return null;
  return mayAct(providers, resource) ? { id: resource.id, name: resource.name } : null;
}

const mayAct = (providers: Intake['providers'], { provider }: { readonly provider: string }): boolean =>
  Object.hasOwn(providers, provider) && providers[provider]?.acts !== undefined;
