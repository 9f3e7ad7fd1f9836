import { hasRights } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { AccountRight } from './account-right';

/** Whose lines somebody may read: editors those of all accounts, viewers of none, unless somebody said otherwise. */
export const lineRight = new AccountRight('line_accounts', (role) => (hasRights(role, 'editor') ? 'all' : []));

/** @throws Refusal `not-allowed` for whoever may read no lines at all */
export function requireLines(accounts: readonly number[] | null): readonly number[] | null {
  if (accounts?.length !== 0) return accounts;
  throw new Refusal(
    'not-allowed',
    'You may not read lines of logs.',
    'Ask an administrator: the page People says whose lines each person may read.'
  );
}
