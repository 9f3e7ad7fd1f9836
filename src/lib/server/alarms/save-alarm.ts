import { alarmSchema, type AlarmDefinition } from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { unknownChannels } from '../notify/channels';
import { resolveSignal } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';
import { changeAlarm, forgetJudged, insertAlarm, removeAlarm as deleteAlarm, type Alarm } from './alarms';
import { withUnit } from './draft';

interface AlarmContext extends Context {
  readonly evaluator: SignalEvaluator;
}

/**
 * Saves an alarm: a new one, or in place of one that exists. A signal whose unit is known from its data says it from now on, since the threshold is in that unit.
 *
 * @param id null for a new one
 * @throws Refusal when the signal cannot be evaluated, `channel-missing`, `not-found`
 */
export async function saveAlarm(
  context: AlarmContext,
  id: number | null,
  asked: AlarmDefinition,
  by: string
): Promise<Alarm> {
  const { db, clock, changes } = context;
  const read = alarmSchema.parse(asked);
  await resolveSignal(db, read.signal);
  if ((await unknownChannels(db, read.channels)).length > 0)
    throw new Refusal(
      'channel-missing',
      'A channel that this alarm was to notify no longer exists.',
      'Choose the channels again.',
      { path: ['channels'] }
    );
  const definition = { ...read, signal: await withUnit(context, read.signal) };
  const saved =
    id === null
      ? await insertAlarm(db, definition, by, clock.now())
      : await db.transaction(async (within) => {
          await forgetJudged(within, id);
          return changeAlarm(within, id, definition, by, clock.now());
        });
  if (saved === null) throw noSuchAlarm();
  changes.tell('definition', { alarmId: saved.id });
  return saved;
}

/** Removes an alarm; its incidents stay in the history under its name. @throws Refusal `not-found` */
export async function removeAlarm({ db, clock, changes }: Context, id: number): Promise<void> {
  if (!(await db.transaction((within) => deleteAlarm(within, id, clock.now())))) throw noSuchAlarm();
  changes.tell('alarm', { alarmId: id });
}

export const noSuchAlarm = (): Refusal =>
  new Refusal('not-found', 'There is no such alarm.', 'It may have been removed. See the list of alarms.');
