import { actionText, isDangerous, whyNot, type Abilities, type ProviderAction } from '$lib/core/response';
import { Refusal } from '$lib/core/problem/problem';
import { after } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { incidentById } from '../incidents/incidents';
import { resourceById, type Resource } from '../inventory/resources';
import { actsOf } from './provider-acts';
import { insertRun, isUnderWay, lockActs, runById, runByKey, type StoredRun } from './runs';
import { claimedFor, sendRun, type Actor } from './send-run';

/** What somebody wants to be done now, by hand. */
export interface Order {
  readonly resourceId: number;
  readonly action: ProviderAction;
  readonly incidentId: number | null;
}

/** What would come of an order. */
export interface Foretold {
  /** In the provider's sentences. */
  readonly says: readonly string[];
  /** Whether the resource's name has to be typed. */
  readonly isDangerous: boolean;
}

async function requireResource(actor: Pick<Actor, 'db'>, id: number): Promise<Resource> {
  const resource = await resourceById(actor.db, id);
  if (resource === null || resource.endedAt !== null)
    throw new Refusal('not-found', 'There is no such resource any more.', 'Look for it by name.');
  return resource;
}

/** What can be done with a resource now. @throws Refusal */
export async function abilitiesOf(actor: Actor, resourceId: number): Promise<Abilities> {
  const { accountId, providerId } = await requireResource(actor, resourceId);
  return (await actsOf(actor, accountId)).abilities(providerId);
}

/** What would come of it; nothing is done. @throws Refusal `invalid` where it cannot be done */
export async function foretell(actor: Actor, { resourceId, action }: Order): Promise<Foretold> {
  const { accountId, providerId } = await requireResource(actor, resourceId);
  const acts = await actsOf(actor, accountId);
  const abilities = await acts.abilities(providerId);
  const why = whyNot(action, abilities);
  if (why !== null) throw new Refusal('invalid', why, 'Choose something else.', { path: ['action'] });
  return { says: await acts.foretell(providerId, action), isDangerous: isDangerous(action, abilities) };
}

/**
 * Does something with a resource, once.
 *
 * @param confirmed the resource's name, as it was typed; needed for what is dangerous
 * @param key of the order: sent a second time, it does nothing and gives what the first time came to
 * @throws Refusal `invalid` where it cannot be done, `changed-meanwhile` while something else is under way with it
 */
export async function actNow(
  actor: Actor,
  order: Order,
  { confirmed, by, key }: { readonly confirmed: string | null; readonly by: string; readonly key: string }
): Promise<StoredRun> {
  const { db, clock, changes } = actor;
  const known = await orderedBefore(db, order, key);
  if (known !== null) return known;
  const resource = await requireResource(actor, order.resourceId);
  const abilities = await (await actsOf(actor, resource.accountId)).abilities(resource.providerId);
  const why = whyNot(order.action, abilities);
  if (why !== null) throw new Refusal('invalid', why, 'Choose something else.', { path: ['action'] });
  if (isDangerous(order.action, abilities) && confirmed !== resource.name)
    throw new Refusal(
      'invalid',
      `To ${actionText(order.action)}, type its name.`,
      `Type ${resource.name} to confirm.`,
      { path: ['confirmed'] }
    );
  if (order.incidentId !== null && (await incidentById(db, order.incidentId))?.resourceId !== resource.id)
    throw new Refusal('not-found', 'There is no such incident on it.', 'Act on the resource instead.');
  const now = clock.now();
  const made = await db.transaction(async (within) => {
    await lockActs(within);
    // The same order may have come twice at once.
    const again = await orderedBefore(within, order, key);
    if (again !== null) return { run: again, isNew: false };
    if (await isUnderWay(within, resource.id))
      throw new Refusal(
        'changed-meanwhile',
        `Something is under way with ${resource.name}.`,
        'Wait until it is done, then look again.'
      );
    const run = await insertRun(
      within,
      {
        ...{ key, responseId: null, incidentId: order.incidentId, attempt: 1, accountId: resource.accountId },
        ...{ resourceId: resource.id, resource: resource.name, action: order.action, by, state: 'sending', says: '' }
      },
      now,
      after(now, claimedFor)
    );
    return { run, isNew: true };
  });
  if (!made.isNew) return made.run;
  changes.tell('responses', {});
  await sendRun(actor, made.run);
  return (await runById(db, made.run.id)) ?? made.run;
}

/** What was ordered under a key before; null for nothing. @throws Refusal `invalid` where that was something else */
async function orderedBefore(db: Queryable, { resourceId, action }: Order, key: string): Promise<StoredRun | null> {
  const known = await runByKey(db, key);
  if (known === null || (known.resourceId === resourceId && actionText(known.action) === actionText(action)))
    return known;
  throw new Refusal('invalid', 'This Idempotency-Key was used for something else.', 'Give a new UUID with each order.');
}
