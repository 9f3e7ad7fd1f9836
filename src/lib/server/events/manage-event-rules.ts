import type { EventRule } from '$lib/core/events';
import { Refusal } from '$lib/core/problem/problem';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { endOfEventRule } from '../incidents/by-events';
import {
  allEventRules,
  eventRuleById,
  insertEventRule,
  markEventRuleRemoved,
  replaceEventRule,
  type StoredEventRule
} from './event-rules';

/** Rules that there may be: every event is put through all of them. */
const mostRules = 200;

/** Adds a rule for events that arrive from now on. @throws Refusal `invalid` when there are too many, or no such route */
export async function addEventRule(
  { db, clock, changes }: Context,
  rule: EventRule,
  by: string
): Promise<StoredEventRule> {
  const made = await db.transaction(async (within) => {
    await within.rows('lock table event_rules in share row exclusive mode');
    if ((await allEventRules(within)).length >= mostRules)
      throw new Refusal('invalid', `There are ${mostRules} event rules, which is the most.`, 'Remove one first.');
    await checkRoute(within, rule);
    return insertEventRule(within, rule, { at: clock.now(), by });
  });
  changes.tell('definition', { alarmId: null });
  return made;
}

/**
 * Changes a rule. What it has raised stays raised, and is cleared as the rule says now; with one that is switched off, it ends.
 *
 * @param version of the rule as whoever changes it has seen it
 * @throws Refusal `not-found`, `changed-meanwhile`
 */
export async function saveEventRule(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  rule: EventRule,
  by: string
): Promise<StoredEventRule> {
  const saved = await db.transaction(async (within) => {
    await checkRoute(within, rule);
    const at = clock.now();
    const replaced = await replaceEventRule(within, id, version, rule, { at, by });
    if (replaced !== null && !rule.enabled) await endOfEventRule(within, id, at);
    return replaced;
  });
  if (saved === null) throw changedMeanwhile(await eventRuleById(db, id), 'rule', noSuchRule);
  changes.tell('definition', { alarmId: null });
  changes.tell('routing', {});
  return saved;
}

/** Removes a rule; what it has raised ends with it, and stays in the history. @throws Refusal `not-found` */
export async function removeEventRule({ db, clock, changes }: Context, id: number): Promise<void> {
  await db.transaction(async (within) => {
    const at = clock.now();
    if (!(await markEventRuleRemoved(within, id, at))) throw noSuchRule();
    await endOfEventRule(within, id, at);
  });
  changes.tell('definition', { alarmId: null });
  changes.tell('routing', {});
}

const noSuchRule = () => new Refusal('not-found', 'There is no such event rule.', 'See the list of rules.');

async function checkRoute(within: Queryable, { route }: EventRule): Promise<void> {
  if (route !== null && (await within.rows('select 1 from routes where id = $1', [route])).length === 0)
    throw new Refusal('invalid', 'There is no such route.', 'Choose one, or none.', { path: ['route'] });
}
