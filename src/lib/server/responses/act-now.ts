import { actionText, isDangerous, whyNot, type Abilities, type ProviderAction } from '$lib/core/response';
import { Refusal } from '$lib/core/problem/problem';
import { after } from '$lib/core/time';
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
  const before = await runByKey(db, key);
  if (before !== null) {
    if (before.resourceId === order.resourceId && actionText(before.action) === actionText(order.action)) return before;
    throw new Refusal(
      'invalid',
      'This Idempotency-Key was used for something else.',
      'Give a new UUID with each order.'
    );
  }
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
  if (order.incidentId !== null && (await incidentById(db, order.incidentId)) === null)
    throw new Refusal('not-found', 'There is no such incident.', 'Act on the resource instead.');
  const now = clock.now();
  const run = await db.transaction(async (within) => {
    await lockActs(within);
    if (await isUnderWay(within, resource.id))
      throw new Refusal(
        'changed-meanwhile',
        `Something is under way with ${resource.name}.`,
        'Wait until it is done, then look again.'
      );
    return insertRun(
      within,
      {
        ...{ key, responseId: null, incidentId: order.incidentId, attempt: 1, accountId: resource.accountId },
        ...{ resourceId: resource.id, resource: resource.name, action: order.action, by, state: 'sending', says: '' }
      },
      now,
      after(now, claimedFor)
    );
  });
  changes.tell('responses', {});
  await sendRun(actor, run);
  return (await runById(db, run.id)) ?? run;
}
