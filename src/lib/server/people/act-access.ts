import { hasRights } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { AccountRight } from './account-right';

/** With whose resources somebody may do something at the provider: administrators with those of all accounts, others with none, unless somebody said otherwise. */
export const actRight = new AccountRight('act_accounts', (role) => (hasRights(role, 'administrator') ? 'all' : []));

/** @param accounts of somebody's right; null for all @throws Refusal `not-allowed` for whoever may act on nothing */
export function requireSomeActing(accounts: readonly number[] | null): void {
  if (accounts?.length !== 0) return;
  throw new Refusal(
    'not-allowed',
    'You may not act on resources.',
    'Ask an administrator: the page People says on whose resources each person may act.'
  );
}

/** @param accounts of somebody's right; null for all @throws Refusal `not-allowed` */
export function requireActing(accounts: readonly number[] | null, accountId: number | null): void {
  if (accounts === null || (accountId !== null && accounts.includes(accountId))) return;
  throw new Refusal(
    'not-allowed',
    accountId === null
      ? 'You may act on resources of some accounts only, and this is about all.'
      : 'You may not act on resources of this account.',
    'Ask an administrator: the page People says on whose resources each person may act.'
  );
}
