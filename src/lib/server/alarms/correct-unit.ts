import { plainPick } from '$lib/core/signal';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { pushedUnits, setUnit } from '../inventory/metrics';
import { allAlarms, changeAlarm } from './alarms';

/**
 * Corrects the unit of a metric that programs send. Its numbers stay as they are, and so do the thresholds of alarms
 * on it: they were meant in the same unit, which their signals have named since they were saved.
 *
 * @throws Refusal `not-found` when no program sends it
 * @example await correctUnit(server, 'checkin.scan.time', 'ms', 'Nerea')
 */
export async function correctUnit(
  { db, clock, changes }: Context,
  metric: string,
  unit: string,
  by: string
): Promise<void> {
  await db.transaction(async (within) => {
    const before = new Set(await pushedUnits(within, metric));
    if (before.size === 0)
      throw new Refusal(
        'not-found',
        `No program sends a metric named ${metric}.`,
        'The unit of what a provider reports is given by the provider; choose another one to show it in.'
      );
    await setUnit(within, metric, unit);
    for (const { id, definition } of await allAlarms(within)) {
      const { signal } = definition;
      if (!signal || signal.unit === undefined || !before.has(signal.unit)) continue;
      if (plainPick(signal)?.metric !== metric) continue;
      await changeAlarm(within, id, { ...definition, signal: { ...signal, unit } }, by, clock.now());
    }
  });
  changes.tell('definition', { alarmId: null });
}
