import { error, fail } from '@sveltejs/kit';
import { before, hour, minute, times } from '$lib/core/time';
import { accountById, allAccounts, arrivedSince, pullsOf } from '$server/intake/accounts';
import { accessOf, providerOf } from '$server/intake/pull';
import { providerNames } from '$server/intake/providers';
import { coverageByAccount } from '$server/intake/resources';
import { bussola } from '$server/running';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const now = clock.now();
  const [accounts, arrived, coverage, pulls] = await Promise.all([
    allAccounts(db),
    arrivedSince(db, before(now, times(10, minute))),
    coverageByAccount(db),
    pullsOf(db, Number(params.id), before(now, hour))
  ]);
  const rows = accounts.map((account) => ({
    ...account,
    providerName: providerNames[account.provider] ?? account.provider,
    // What arrived in ten minutes, or since it was connected when that is less.
    perMinute: Math.round(
      (arrived.find(({ accountId }) => accountId === account.id)?.points ?? 0) /
        Math.min(10, Math.max(1, (now - account.createdAt) / 60_000))
    ),
    resources: coverage.find(({ accountId }) => accountId === account.id)?.resources ?? 0,
    series: coverage.find(({ accountId }) => accountId === account.id)?.series ?? 0
  }));
  const selected = rows.find(({ id }) => id === Number(params.id));
  if (!selected) error(404, { message: 'There is no such account.', remedy: 'Choose one on the page Accounts.' });
  return { accounts: rows, selected, pulls };
};

export const actions = {
  test: async ({ params }) => {
    const server = bussola();
    const account = await accountById(server.db, Number(params.id));
    if (account === null) return fail(404, { problem: 'There is no such account.' });
    return {
      checks: await providerOf(server.providers, account).testAccess(await accessOf(server, account)),
      testedAt: server.clock.now()
    };
  }
} satisfies Actions;
