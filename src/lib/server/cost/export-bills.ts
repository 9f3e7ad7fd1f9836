import { stringify } from 'csv-stringify/sync';
import type { DayNumber } from '$lib/core/cost';
import { focusColumns, focusRowOf } from '$lib/core/cost/focus';
import type { Account } from '../inventory/accounts';
import type { CostClient } from './open-costs';

const columns = focusColumns.map(({ name }) => name);

/**
 * Bills as a FOCUS 1.0 file, in pieces: a day of an account at a time, so that no file has to be in memory whole.
 *
 * @param titleOf what a provider is called
 */
export async function* exportBills(
  costs: CostClient,
  accounts: readonly Pick<Account, 'id' | 'name' | 'provider'>[],
  { from, to }: { readonly from: DayNumber; readonly to: DayNumber },
  titleOf: (provider: string) => string
): AsyncGenerator<string> {
  yield stringify([columns], { record_delimiter: '\r\n' });
  for (const { id, name, provider } of accounts)
    for (let day = from; day < to; day = (day + 1) as DayNumber) {
      const entries = await costs.book((book) => book.entries(id, day));
      const rows = entries.map((entry) => focusRowOf(entry, { provider: titleOf(provider), account: name }));
      if (rows.length > 0) yield stringify(rows, { columns, record_delimiter: '\r\n' });
    }
}
