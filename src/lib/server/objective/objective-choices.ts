import { steadySignalSchema } from '$lib/core/signal';
import { alarmChoices } from '../alarms/draft';
import type { Context } from '../db/context';
import { allSignals } from '../query/signals/signals';

/** What the page of a promise offers to choose from. */
export async function objectiveChoices(context: Pick<Context, 'db'>) {
  const [{ metrics, accounts, resources, routing }, signals] = await Promise.all([
    alarmChoices(context),
    allSignals(context.db)
  ]);
  return {
    ...{ metrics, accounts, resources, routing },
    // A promise is counted in cells of one length: signals that follow the range of a board have none.
    signals: signals.flatMap(({ id, name, definition }) => {
      const steady = steadySignalSchema.safeParse(
        definition.step === 'auto' ? { ...definition, step: 'PT5M' } : definition
      );
      return steady.success ? [{ id, name, signal: steady.data }] : [];
    })
  };
}
