import { resting } from '../removals/resting';
import { changedAlarm, type AlarmChange, type AlarmDefinition } from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { alarmById, type Alarm } from './alarms';
import { bringBack, checkedAlarm, removeAlarm, storeAlarm, type AlarmContext } from './save-alarm';
import { versionOfAlarm } from './versions';

/** What became of several alarms that were to be changed alike. */
export interface ManyChanged {
  /** With their versions after it: what undoing needs. */
  readonly changed: readonly Changed[];
  readonly skipped: readonly { readonly id: number; readonly name: string; readonly why: string }[];
}

/** An alarm as a change left it. */
export interface Changed {
  readonly id: number;
  /** Null for one that was removed. */
  readonly version: number | null;
}

/**
 * Changes several alarms alike, all at once; those that cannot be changed so are left as they are, each with why.
 *
 * @throws Refusal `route-missing`
 */
export async function changeAlarms(
  context: AlarmContext,
  ids: readonly number[],
  change: AlarmChange,
  by: string
): Promise<ManyChanged> {
  const skipped: ManyChanged['skipped'][number][] = [];
  const wanted: { alarm: Alarm; definition: AlarmDefinition }[] = [];
  for (const id of new Set(ids)) {
    const alarm = await alarmById(context.db, id);
    if (alarm === null) {
      skipped.push({ id, name: `alarm ${id}`, why: 'It was removed meanwhile.' });
      continue;
    }
    const definition = changedAlarm(alarm.definition, change);
    if (typeof definition === 'string') skipped.push({ id, name: alarm.definition.name, why: definition });
    else wanted.push({ alarm, definition: await checkedAlarm(context, definition, alarm.definition) });
  }
  const { db, clock, changes } = context;
  const changed = await db.transaction(async (within) => {
    const done: Changed[] = [];
    for (const { alarm, definition } of wanted) {
      const stored = await storeAlarm(within, alarm.id, definition, by, clock.now(), alarm.version).catch(asRefused);
      if (stored instanceof Refusal) skipped.push({ id: alarm.id, name: alarm.definition.name, why: stored.message });
      else done.push({ id: stored.id, version: stored.version });
    }
    return done;
  });
  for (const { id } of changed) changes.tell('definition', { alarmId: id });
  return { changed, skipped };
}

/** Removes several alarms; they can be had back for 30 days. */
export async function removeAlarms(context: AlarmContext, ids: readonly number[], by: string): Promise<ManyChanged> {
  const changed: Changed[] = [];
  const skipped: ManyChanged['skipped'][number][] = [];
  for (const id of new Set(ids)) {
    const gone = await resting(context, { kind: 'alarms', id, by }, (inner) => removeAlarm(inner, id)).then(
      () => null,
      asRefused
    );
    if (gone === null) changed.push({ id, version: null });
    else skipped.push({ id, name: `alarm ${id}`, why: gone.message });
  }
  return { changed, skipped };
}

/** Takes a change of several alarms back: each gets the definition that it had before, unless it was changed again since; removed ones come back. */
export async function undoChanges(context: AlarmContext, all: readonly Changed[], by: string): Promise<ManyChanged> {
  const changed: Changed[] = [];
  const skipped: ManyChanged['skipped'][number][] = [];
  for (const { id, version } of all) {
    const alarm = await alarmById(context.db, id);
    const name = alarm?.definition.name ?? `alarm ${id}`;
    const undone = await (version === null ? bringBack(context, id) : undoOne(context, alarm, version, by)).then(
      (back) => ({ id, version: back.version }),
      asRefused
    );
    if (undone instanceof Refusal) skipped.push({ id, name, why: undone.message });
    else changed.push(undone);
  }
  return { changed, skipped };
}

async function undoOne(context: AlarmContext, alarm: Alarm | null, version: number, by: string): Promise<Alarm> {
  if (alarm === null) throw new Refusal('not-found', 'It was removed meanwhile.', 'See the list of alarms.');
  const before = await versionOfAlarm(context.db, alarm.id, version - 1);
  if (before === null) throw new Refusal('not-found', 'It had no definition before.', 'See its versions.');
  const { db, clock, changes } = context;
  const definition = await checkedAlarm(context, before.definition, alarm.definition);
  const stored = await db.transaction((within) => storeAlarm(within, alarm.id, definition, by, clock.now(), version));
  changes.tell('definition', { alarmId: stored.id });
  return stored;
}

function asRefused(error: unknown): Refusal {
  if (error instanceof Refusal) return error;
  throw error;
}
