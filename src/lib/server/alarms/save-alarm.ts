import equal from 'fast-deep-equal';
import {
  alarmSchema,
  circleFrom,
  combinedIds,
  signalsOfAlarm,
  stepOfAlarm,
  type AlarmDefinition
} from '$lib/core/alarm';
import { isRefused, Refusal } from '$lib/core/problem/problem';
import { before, day, range, times, type Duration, type Instant, type Range } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { routeById } from '../routing/routes';
import { resolveSignal } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';
import {
  alarmById,
  allAlarms,
  bringBackAlarm,
  changeAlarm,
  insertAlarm,
  lockAlarms,
  removeAlarm as markRemoved,
  wantHistory,
  type Alarm
} from './alarms';
import { withUnit } from './draft';
import { versionOfAlarm } from './versions';

export interface AlarmContext extends Context {
  readonly evaluator: SignalEvaluator;
}

/**
 * Saves an alarm: a new one, or in place of one that exists. A signal whose unit is known from its data says it from now on, since the threshold is in that unit.
 *
 * @param id null for a new one
 * @param historyDays days of stored history that a new one is judged over as well: what it would have raised becomes incidents that nobody is notified of
 * @throws Refusal when the signal cannot be evaluated, `route-missing`, `alarm-parts`, `not-found`
 */
export async function saveAlarm(
  context: AlarmContext,
  id: number | null,
  asked: AlarmDefinition,
  by: string,
  historyDays = 0
): Promise<Alarm> {
  const { db, clock, changes } = context;
  const before = id === null ? null : await definitionNow(db, id);
  const definition = await checkedAlarm(context, asked, before);
  const saved = await db.transaction(async (within) => {
    const stored = await storeAlarm(within, id, definition, by, clock.now());
    if (id === null && historyDays > 0)
      await wantHistory(within, stored.id, historySpan(definition, clock.now(), times(historyDays, day)));
    return stored;
  });
  changes.tell('definition', { alarmId: saved.id });
  return saved;
}

/** The history before a moment that an alarm is judged over: whole cells, up to the one that the engine judges first. */
export function historySpan(
  alarm: Pick<AlarmDefinition, 'signal' | 'combines'>,
  now: Instant,
  length: Duration
): Range {
  const step = stepOfAlarm(alarm);
  const [from, to] = [before(now, length), now].map((at) => (Math.floor(at / step) * step) as Instant);
  return range(from as Instant, to as Instant);
}

/**
 * An alarm that may be stored, with its unit.
 *
 * @param before what it is now; null for a new one. A signal that it has already is not evaluated again: an alarm whose metric is gone can be switched off all the same
 * @throws Refusal when its signal cannot be evaluated, or `route-missing`
 */
export async function checkedAlarm(
  context: AlarmContext,
  asked: AlarmDefinition,
  before: AlarmDefinition | null
): Promise<AlarmDefinition> {
  const { db } = context;
  const read = alarmSchema.parse(asked);
  const isSame = before !== null && equal(signalsOfAlarm(read), signalsOfAlarm(before));
  if (!isSame) for (const signal of signalsOfAlarm(read)) await resolveSignal(db, signal);
  if (read.route !== null && (await routeById(db, read.route)) === null)
    throw new Refusal(
      'route-missing',
      'The route that this alarm names no longer exists.',
      'Choose another, or leave it to the list of routes.',
      { path: ['route'] }
    );
  return read.signal && !isSame ? { ...read, signal: await withUnit(context, read.signal) } : read;
}

/** The definition of an alarm; null when there is none that can be read, so that it can be replaced. */
async function definitionNow(db: Queryable, id: number): Promise<AlarmDefinition | null> {
  try {
    return (await alarmById(db, id))?.definition ?? null;
  } catch (error) {
    if (isRefused(error, 'stored-unreadable')) return null;
    throw error;
  }
}

/**
 * Stores an alarm that was checked; to be called in a transaction.
 *
 * @param version that it has to have still; null for any
 * @throws Refusal `alarm-parts`, `not-found`, `changed-meanwhile`
 */
export async function storeAlarm(
  within: Queryable,
  id: number | null,
  definition: AlarmDefinition,
  by: string,
  at: Instant,
  version: number | null = null
): Promise<Alarm> {
  await refuseParts(within, id, definition);
  if (id === null) return insertAlarm(within, definition, by, at);
  const changed = await changeAlarm(within, id, definition, by, at, version);
  if (changed !== null) return changed;
  if (version === null || (await alarmById(within, id)) === null) throw noSuchAlarm();
  throw new Refusal('changed-meanwhile', 'It was changed again since.', 'See its versions.');
}

/** Nobody else may change what alarms combine until the transaction ends. @throws Refusal when a part of a combined alarm does not exist, or it would combine itself */
async function refuseParts(within: Queryable, id: number | null, alarm: AlarmDefinition): Promise<void> {
  const parts = combinedIds(alarm);
  if (parts.length === 0) return;
  await lockAlarms(within);
  const all = new Map((await allAlarms(within)).map((one) => [one.id, one.definition]));
  const path = { path: ['combines', 'parts'] };
  if (parts.some((part) => !all.has(part)))
    throw new Refusal(
      'alarm-parts',
      'An alarm that this one is to combine does not exist.',
      'Choose its parts again.',
      path
    );
  if (id === null) return;
  const circle = circleFrom(id, (one) => (one === id ? parts : combinedIds(all.get(one))));
  if (circle === null) return;
  const names = circle.map((one) => `“${all.get(one)?.name ?? one}”`).join(' combines ');
  throw new Refusal('alarm-parts', `It would combine itself: ${names}.`, 'Leave one of them out.', path);
}

/**
 * Gives an alarm a definition back that it had. That is a new version, so that it can be taken back as well.
 *
 * @throws Refusal `not-found`, and as {@link saveAlarm} does where what it refers to is gone
 */
export async function restoreVersion(context: AlarmContext, id: number, version: number, by: string): Promise<Alarm> {
  const old = await versionOfAlarm(context.db, id, version);
  if (old === null || (await alarmById(context.db, id)) === null)
    throw new Refusal('not-found', `There is no version ${version} of this alarm.`, 'See its list of versions.');
  return saveAlarm(context, id, old.definition, by);
}

/** Removes an alarm; its incidents stay in the history under its name. @throws Refusal `not-found` */
export async function removeAlarm({ db, clock, changes }: Context, id: number): Promise<void> {
  if (!(await db.transaction((within) => markRemoved(within, id, clock.now())))) throw noSuchAlarm();
  changes.tell('alarm', { alarmId: id });
}

/** Has a removed alarm back, which is judged anew. @throws Refusal `not-found` when that is too long ago */
export async function bringBack({ db, changes }: Context, id: number): Promise<Alarm> {
  const alarm = await db.transaction((within) => bringBackAlarm(within, id));
  if (alarm === null)
    throw new Refusal('not-found', 'The alarm can no longer be had back.', 'Make it again: its incidents name it.');
  changes.tell('definition', { alarmId: id });
  return alarm;
}

export const noSuchAlarm = (): Refusal =>
  new Refusal('not-found', 'There is no such alarm.', 'It may have been removed. See the list of alarms.');
