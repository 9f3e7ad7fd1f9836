import type { z } from 'zod';
import type { accountFormSchema, credentialFormSchema } from '$lib/core/forms/forms';
import { Refusal } from '$lib/core/problem/problem';
import {
  accountById,
  insertAccount,
  saveTest,
  replaceCredential,
  wantDiscovery,
  type Account
} from '../../inventory/accounts';
import type { AccessCheck } from '../../providers/port/provider';
import { accessOf, accessToTest, providerOf, type Intake } from '../ledger/intake';
import { historyStart } from './pull';

type Connecting = Pick<Intake, 'db' | 'clock' | 'secrets' | 'providers' | 'guards' | 'changes'>;
type NewAccount = z.infer<typeof accountFormSchema>;

/** Checks without which nothing can be collected: reach, clock and credential. What is missing beyond them costs single services. */
const essential = 3;

/** Whether a credential passed what nothing works without. */
export const isAccepted = (checks: readonly AccessCheck[]): boolean =>
  checks.slice(0, essential).every(({ passed }) => passed);

/**
 * An account that people name.
 *
 * @throws Refusal `not-found`
 */
export async function existingAccount({ db }: Pick<Intake, 'db'>, id: number): Promise<Account> {
  const account = await accountById(db, id);
  if (account === null)
    throw new Refusal('not-found', 'There is no such account.', 'It may have been removed. See the list of accounts.');
  return account;
}

/**
 * Tests a credential that is not saved.
 *
 * @throws Refusal `invalid` for a provider that is not registered
 */
export async function testCredential(
  { providers, guards }: Pick<Intake, 'providers' | 'guards'>,
  { provider, ...access }: Pick<NewAccount, 'provider' | 'endpoint' | 'keyId' | 'secret'>
): Promise<AccessCheck[]> {
  if (!Object.hasOwn(providers, provider))
    throw new Refusal(
      'invalid',
      `There is no provider "${provider}".`,
      `Choose ${Object.keys(providers).join(', ')}.`,
      {
        path: ['provider']
      }
    );
  return providerOf(providers, { provider }).testAccess(accessToTest(guards, access));
}

/**
 * Connects an account; its first pull begins at once.
 *
 * @param historyDays of history that are wanted
 * @throws Refusal `name-taken`; `invalid` for a provider that is not registered
 */
export async function connectAccount(
  { db, clock, secrets, providers }: Connecting,
  { secret, ...account }: NewAccount,
  historyDays: number,
  by: string
): Promise<Account> {
  if (!Object.hasOwn(providers, account.provider))
    throw new Refusal('invalid', `There is no provider "${account.provider}".`, 'Choose one from the list.', {
      path: ['provider']
    });
  const createdAt = clock.now();
  return insertAccount(db, {
    ...account,
    sealedSecret: secrets.seal(secret),
    createdAt,
    createdBy: by,
    historyFrom: historyStart(createdAt, historyDays)
  });
}

/** Tests the credential of an account and notes the result. @throws Refusal `not-found` */
export async function testAccount(connecting: Connecting, id: number): Promise<void> {
  const { db, clock, guards, providers, changes } = connecting;
  const account = await existingAccount(connecting, id);
  const access = accessToTest(guards, await accessOf(connecting, account));
  const checks = await providerOf(providers, account).testAccess(access);
  await saveTest(db, id, { at: clock.now(), checks });
  changes.tell('account', { accountId: id });
}

/**
 * Replaces the credential of an account, once it has been seen to work; pulls go on without a gap.
 *
 * @returns the checks; when these are not {@link isAccepted}, the old credential stays
 * @throws Refusal `not-found`
 */
export async function changeCredential(
  connecting: Connecting,
  id: number,
  credential: z.infer<typeof credentialFormSchema>
): Promise<AccessCheck[]> {
  const { db, clock, secrets } = connecting;
  const { provider, endpoint } = await existingAccount(connecting, id);
  const checks = await testCredential(connecting, { provider, endpoint, ...credential });
  if (!isAccepted(checks)) return checks;
  const at = clock.now();
  const { keyId, secret } = credential;
  await replaceCredential(db, id, { keyId, sealedSecret: secrets.seal(secret) }, at);
  await saveTest(db, id, { at, checks });
  await wantDiscovery(db, id);
  return checks;
}
