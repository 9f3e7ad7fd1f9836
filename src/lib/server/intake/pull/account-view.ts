import type { Account } from '../../inventory/accounts';
import { allAccounts } from '../../inventory/accounts';
import { arrivedSince } from '../ledger/collections';
import { pagesProvider } from '../../inventory/self-described';
import { seriesCounts } from '../../inventory/series';
import { before, minute, times } from '$lib/core/time';
import type { Context } from '../../db/context';
import type { Provider } from '../../providers/port/provider';

/** An account as the list of accounts shows it. */
export interface AccountRow extends Account {
  readonly providerName: string;
  readonly perMinute: number;
  readonly series: number;
}

/** Every account with what arrives of it. */
export async function accountRows({
  db,
  clock,
  providers
}: Pick<Context, 'db' | 'clock'> & { readonly providers: Readonly<Record<string, Provider>> }): Promise<AccountRow[]> {
  const now = clock.now();
  const [accounts, arrived, counts] = await Promise.all([
    allAccounts(db),
    arrivedSince(db, before(now, times(10, minute))),
    seriesCounts(db)
  ]);
  return accounts.map((account) => ({
    ...account,
    providerName:
      providers[account.provider]?.name ??
      (account.provider === pagesProvider ? 'OpenMetrics pages' : account.provider),
    // What arrived in ten minutes, or since it was connected when that is less.
    perMinute: Math.round(
      arrived.filter(({ accountId }) => accountId === account.id).reduce((sum, { points }) => sum + points, 0) /
        Math.min(10, Math.max(1, (now - account.createdAt) / 60_000))
    ),
    series: counts.filter(({ accountId }) => accountId === account.id).reduce((sum, { series }) => sum + series, 0)
  }));
}
