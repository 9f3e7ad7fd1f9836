import type { Budget } from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { alarmById, removeAlarm } from '../alarms/alarms';
import { storeAlarm } from '../alarms/save-alarm';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { routeById } from '../routing/routes';
import { alarmOfBudget } from './budget-alarm';
import {
  allBudgets,
  budgetById,
  deleteBudget,
  insertBudget,
  noteBudgetAlarm,
  replaceBudget,
  type StoredBudget
} from './budgets';

interface Author {
  readonly at: Instant;
  readonly by: string;
}

/** Budgets that there may be. */
const mostBudgets = 200;

/** Adds a budget with its alarm. @throws Refusal `invalid` when there are too many, `route-missing` */
export async function addBudget({ db, clock, changes }: Context, budget: Budget, by: string): Promise<StoredBudget> {
  const author = { at: clock.now(), by };
  const made = await db.transaction(async (within) => {
    await within.rows('lock table budgets in share row exclusive mode');
    if ((await allBudgets(within)).length >= mostBudgets)
      throw new Refusal('invalid', `There are ${mostBudgets} budgets, which is the most.`, 'Remove one first.');
    return insertWithAlarm(within, budget, author);
  });
  tell(changes, made);
  return made;
}

/** Adds a budget with its alarm; to be called in a transaction. */
export const insertWithAlarm = async (within: Queryable, budget: Budget, author: Author): Promise<StoredBudget> =>
  withAlarm(within, await insertBudget(within, budget, author), null, author);

/**
 * Changes a budget and its alarm.
 *
 * @param version of the budget as whoever changes it has seen it
 * @throws Refusal `not-found`, `changed-meanwhile`, `route-missing`
 */
export async function saveBudget(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  budget: Budget,
  by: string
): Promise<StoredBudget> {
  const author = { at: clock.now(), by };
  const saved = await db.transaction(async (within) => {
    const before = await budgetById(within, id);
    const replaced = await replaceBudget(within, id, version, budget, author);
    return replaced && withAlarm(within, replaced, before?.budget ?? null, author);
  });
  if (saved === null) {
    const known = await budgetById(db, id);
    if (known === null) throw noSuchBudget();
    throw new Refusal(
      'changed-meanwhile',
      `${known.changedBy} changed this budget meanwhile.`,
      'Look at it as it is now, then change it again.'
    );
  }
  tell(changes, saved);
  return saved;
}

/** Removes a budget with its alarm; its incidents stay in the history. @throws Refusal `not-found` */
export async function removeBudget({ db, clock, changes }: Context, id: number): Promise<void> {
  const removed = await db.transaction(async (within) => {
    const one = await deleteBudget(within, id);
    if (one !== null && one.alarmId !== null) await removeAlarm(within, one.alarmId, clock.now());
    return one;
  });
  if (removed === null) throw noSuchBudget();
  changes.tell('costs', { accountId: null });
  if (removed.alarmId !== null) changes.tell('alarm', { alarmId: removed.alarmId });
}

/** Makes the alarm of a budget, or brings it up to date; one that was removed is made anew. */
async function withAlarm(
  within: Queryable,
  stored: StoredBudget,
  formerly: Budget | null,
  { at, by }: Author
): Promise<StoredBudget> {
  const { id, budget, alarmId } = stored;
  if (budget.route !== null && (await routeById(within, budget.route)) === null)
    throw new Refusal(
      'route-missing',
      'The route that this budget names no longer exists.',
      'Choose another, or leave it to the list of routes.',
      { path: ['route'] }
    );
  const known = alarmId === null ? null : await alarmById(within, alarmId);
  const definition = alarmOfBudget(id, budget, known?.definition ?? null, formerly);
  const alarm = await storeAlarm(within, known?.id ?? null, definition, by, at);
  if (alarm.id !== alarmId) await noteBudgetAlarm(within, id, alarm.id);
  return { ...stored, alarmId: alarm.id };
}

function tell(changes: Context['changes'], { alarmId }: StoredBudget): void {
  changes.tell('costs', { accountId: null });
  changes.tell('definition', { alarmId });
}

const noSuchBudget = () => new Refusal('not-found', 'There is no such budget.', 'See the page Cost.');
