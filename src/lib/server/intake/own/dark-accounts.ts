import { darkAfter } from '$lib/core/intake';
import { before, type Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { allAccounts } from '../../inventory/accounts';

/** An account that sends nothing. */
export interface DarkAccount {
  readonly id: number;
  readonly name: string;
  /** Start of its newest sample; when it was connected, when none ever came. */
  readonly since: Instant;
}

/** Accounts of providers of which nothing new has come for a quarter of an hour: their series stay as they were, since nobody can say what happens there. */
export async function darkAccounts(
  db: Queryable,
  providers: Readonly<Record<string, unknown>>,
  now: Instant
): Promise<DarkAccount[]> {
  return (await allAccounts(db))
    .filter(({ provider }) => provider in providers)
    .map(({ id, name, newestAt, createdAt }) => ({ id, name, since: newestAt ?? createdAt }))
    .filter(({ since }) => since <= before(now, darkAfter));
}
