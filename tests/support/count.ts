import type { Locator } from 'playwright-core';
import { until } from './until';

/**
 * Waits until a page shows just so many of something: what was pressed takes a moment to be seen.
 *
 * @throws naming what was counted and how many there were in the end
 * @example await counts(page.getByRole('row'), 3)
 */
export async function counts(what: Locator, expected: number, patienceMs = 30_000): Promise<void> {
  let found = -1;
  await until(
    `${expected} of ${what.toString()}`,
    async () => {
      found = await what.count();
      return found === expected;
    },
    patienceMs
  ).catch((error: unknown) => {
    throw new Error(`counts: ${found} were there, not ${expected}: ${what.toString()}`, { cause: error });
  });
}
