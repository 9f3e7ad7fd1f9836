import { Refusal } from '$lib/core/problem/problem';
import { linesOf, type Signal } from '$lib/core/signal';
import type { Call } from './operation';

export type CallWithLines = Pick<Call<never, never, never>, 'server' | 'inTurn' | 'lineAccounts'>;

/** What alarms and promises count of lines is of every account: whoever may not read all of them sees none of it. @throws Refusal `not-allowed` */
export async function refuseHiddenLines(
  { lineAccounts }: CallWithLines,
  signals: readonly Signal[],
  what = 'An alarm'
): Promise<void> {
  if (signals.every((signal) => linesOf(signal).length === 0) || (await lineAccounts()) === null) return;
  throw new Refusal(
    'not-allowed',
    `${what} counts the lines of every account, and you may read those of some.`,
    'Ask an administrator: the page People says whose lines each person may read.'
  );
}
