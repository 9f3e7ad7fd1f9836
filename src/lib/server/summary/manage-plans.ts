import { Refusal } from '$lib/core/problem/problem';
import { nextSending, type SummaryPlan } from '$lib/core/summary';
import type { Instant } from '$lib/core/time';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';
import { allPlans, deletePlan, insertPlan, planById, replacePlan, type StoredPlan } from './plans';

/** Summaries that are sent regularly at most. */
const mostPlans = 50;

/** @throws Refusal `invalid` for a channel that is not there */
async function check(db: Queryable, { channels }: SummaryPlan): Promise<void> {
  const known = new Set((await allChannels(db)).map(({ id }) => id));
  const index = channels.findIndex((id) => !known.has(id));
  if (index !== -1)
    throw new Refusal('invalid', 'There is no such channel.', 'Choose another one.', { path: ['channels', index] });
}

const nextOf = (plan: SummaryPlan, now: Instant): Instant | null => (plan.enabled ? nextSending(plan, now) : null);

/** @throws Refusal `invalid` */
export async function addPlan({ db, clock, changes }: Context, plan: SummaryPlan, by: string): Promise<StoredPlan> {
  await check(db, plan);
  const at = clock.now();
  const made = await db.transaction(async (within) => {
    await within.rows('lock table summary_plans in share row exclusive mode');
    if ((await allPlans(within)).length >= mostPlans)
      throw new Refusal('invalid', `There are ${mostPlans} summaries, which is the most.`, 'Remove one first.');
    return insertPlan(within, plan, nextOf(plan, at), { at, by });
  });
  changes.tell('summaries', {});
  return made;
}

/** @throws Refusal `invalid`, `changed-meanwhile`, `not-found` */
export async function savePlan(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  plan: SummaryPlan,
  by: string
): Promise<StoredPlan> {
  await check(db, plan);
  const at = clock.now();
  const saved = await replacePlan(db, id, version, plan, nextOf(plan, at), { at, by });
  if (saved === null) throw changedMeanwhile(await planById(db, id), 'summary', noSuch);
  changes.tell('summaries', {});
  return saved;
}

/** What it sent stays. @throws Refusal `not-found` */
export async function removePlan({ db, changes }: Context, id: number): Promise<void> {
  if (!(await deletePlan(db, id))) throw noSuch();
  changes.tell('summaries', {});
}

const noSuch = () =>
  new Refusal('not-found', 'There is no such summary.', 'It may have been removed. See all summaries.');
