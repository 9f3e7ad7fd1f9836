import type { Abilities, ProviderAction } from '$lib/core/response';
import { Refusal } from '$lib/core/problem/problem';
import { accessToTest, providerOf, type Intake } from '../intake/ledger/intake';
import { accountById, sealedSecretOf } from '../inventory/accounts';
import type { Resource } from '../inventory/resources';
import type { ActAnswer, Acts } from '../providers/port/acts';
import type { ProviderAccess } from '../providers/port/provider';

export type ActParts = Pick<Intake, 'db' | 'secrets' | 'guards' | 'providers'>;

/** What can be done with one resource at its provider. Nothing is tried a second time. */
export interface ResourceActs {
  abilities(): Promise<Abilities>;
  foretell(action: ProviderAction): Promise<readonly string[]>;
  act(action: ProviderAction, key: string): Promise<ActAnswer>;
  /** Undefined where the provider cannot say what came of something. */
  readonly outcome: ((key: string) => Promise<ActAnswer | null>) | undefined;
}

/** @throws Refusal `not-found` when its account is gone, `invalid` when nothing can be done at its provider */
export async function actsOf(
  { db, secrets, guards, providers }: ActParts,
  { accountId, providerId }: Pick<Resource, 'accountId' | 'providerId'>
): Promise<ResourceActs> {
  const account = await accountById(db, accountId);
  if (account === null)
    throw new Refusal('not-found', 'Its account was removed.', 'Connect the account again, if it is needed.');
  const acts = account.keyId === '' ? undefined : actsAt(providers, account);
  if (acts === undefined)
    throw new Refusal('invalid', `Nothing can be done with resources of ${account.name}.`, 'Do it at the provider.');
  const { endpoint, keyId } = account;
  const open = async (): Promise<ProviderAccess> =>
    accessToTest(guards, { endpoint, keyId, secret: secrets.open(await sealedSecretOf(db, accountId)) });
  const { outcome } = acts;
  return {
    abilities: async () => acts.abilities(await open(), providerId),
    foretell: async (action) => acts.foretell(await open(), providerId, action),
    act: async (action, key) => acts.act(await open(), providerId, action, key),
    outcome: outcome && (async (key) => outcome(await open(), key))
  };
}

/** A resource as whoever may act on it sees it; null for nobody's and where nothing can be done. @param accounts on whose resources somebody may act; null for all */
export function actableBy(
  { providers }: Pick<Intake, 'providers'>,
  accounts: readonly number[] | null,
  resource: Resource | null
): { readonly id: number; readonly name: string } | null {
  if (resource === null || resource.endedAt !== null) return null;
  if (accounts !== null && !accounts.includes(resource.accountId)) return null;
  return actsAt(providers, resource) === undefined ? null : { id: resource.id, name: resource.name };
}

const actsAt = (providers: Intake['providers'], account: { readonly provider: string }): Acts | undefined =>
  Object.hasOwn(providers, account.provider) ? providerOf(providers, account).acts : undefined;
