import { idFrom } from '$lib/core/forms/id';
import { before, day, hour, times } from '$lib/core/time';
import { allAccounts } from '$server/inventory/accounts';
import {
  allCollections,
  allDropped,
  arrivedByCell,
  arrivedSince,
  errorsSince
} from '$server/intake/ledger/collections';
import { eventsIn } from '$server/intake/events/events';
import { allGaps } from '$server/intake/pull/gaps';
import { metricsByProvider } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import { badChunks } from '$server/store/chunks';
import type { PageServerLoad } from './$types';

/** Cells of the small charts: ten minutes each, four hours of them. */
const cellMs = 600_000;
const cells = 24;

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('bussola:accounts');
  const { db, clock } = bussola();
  const now = clock.now();
  const only = idFrom(url.searchParams.get('account'));
  const [accounts, collections, arrived, lastHour, errors, dropped, gaps, metrics, bad, events] = await Promise.all([
    allAccounts(db),
    allCollections(db),
    arrivedByCell(db, before(now, times(cells / 6, hour)), cellMs),
    arrivedSince(db, before(now, hour)),
    errorsSince(db, before(now, day)),
    allDropped(db),
    allGaps(db),
    metricsByProvider(db),
    badChunks(db),
    eventsIn(db, before(now, times(2, day)), now + 1, only === null ? {} : { accountId: only })
  ]);
  const first = Math.floor(now / cellMs) - cells + 1;
  const shown = ({ accountId }: { accountId: number }) => only === null || accountId === only;
  const names = new Map(accounts.map(({ id, name }) => [id, name]));
  const rows = collections.filter(shown).map((one) => {
    const provider = accounts.find(({ id }) => id === one.accountId)?.provider;
    const own = metrics.filter((metric) => metric.provider === provider && metric.service === one.service);
    const sum = lastHour.find(({ accountId, service }) => accountId === one.accountId && service === one.service);
    return {
      ...one,
      account: names.get(one.accountId) ?? '',
      // The soonest that a sample of any of its metrics can be there: the newest one is measured against it.
      declaredMs: Math.min(...own.map(({ delayMs, samplingMs }) => delayMs + 2 * samplingMs), 86_400_000),
      latestDeclaredMs: Math.max(0, ...own.map(({ delayMs }) => delayMs)),
      points: Array.from(
        { length: cells },
        (_, i) =>
          arrived.find(
            (cell) =>
              cell.accountId === one.accountId && cell.service === one.service && cell.at === (first + i) * cellMs
          )?.points ?? 0
      ),
      perMinute: Math.round((sum?.points ?? 0) / 60),
      throttled: sum?.throttled ?? 0,
      gapMs: gaps
        .filter((gap) => gap.accountId === one.accountId && gap.service === one.service)
        .reduce((total, { from, to }) => total + to - from, 0)
    };
  });
  const named = <Row extends { accountId: number }>(list: readonly Row[]) =>
    list.filter(shown).map((row) => ({ ...row, account: names.get(row.accountId) ?? '' }));
  return {
    accounts: accounts.map(({ id, name }) => ({ id, name })),
    only,
    rows,
    errors: named(errors),
    dropped: named(dropped),
    bad: bad.filter(shown),
    events: events.slice(0, 40)
  };
};
