import { randomUUID } from 'node:crypto';
import {
  actionText,
  countAfter,
  failuresOnEnd,
  gravelySince,
  heldBackBy,
  isOver,
  whyNot,
  type Action,
  type HeldBack
} from '$lib/core/response';
import { isRefused } from '$lib/core/problem/problem';
import { after, minute, times, type Instant } from '$lib/core/time';
import { passes } from '../base/kill-points';
import { recordAct } from '../audit/acts';
import { severityChangesOf } from '../incidents/events';
import { incidentsByIds, openIncidentsOfAlarm, type Incident } from '../incidents/incidents';
import { resourceById, type Resource } from '../inventory/resources';
import { actRight } from '../people/act-access';
import { profileOf } from '../people/people';
import { actsOf } from './provider-acts';
import { allResponses, responseById, stopResponse, type StoredResponse } from './responses';
import { changeHeld, heldRuns, insertRun, isUnderWay, lastRuns, lockActs, newestRuns, type StoredRun } from './runs';
import { claimedFor, type Actor } from './send-run';
import { situationOf } from './situation';

/**
 * Takes up what responses are to do by now: what their alarms have raised for long enough, as far as limits permit. What they do not is held back, with the reason, until they do or it is clear.
 *
 * @returns what is to be sent; it is written down already
 */
export async function takeUp(actor: Actor): Promise<StoredRun[]> {
  const { db, clock, log } = actor;
  await dropHeld(actor);
  const sending: StoredRun[] = [];
  for (const stored of await allResponses(db)) {
    const { response, id, stoppedAt } = stored;
    if (!response.enabled || stoppedAt !== null) continue;
    const open = await openIncidentsOfAlarm(db, response.alarmId);
    if (open.length === 0) continue;
    const newest = await newestRuns(
      db,
      id,
      open.map((one) => one.id)
    );
    for (const incident of await incidentsByIds(
      db,
      open.map((one) => one.id)
    ))
      try {
        const run = await takeOne(actor, stored, incident, newest.get(incident.id) ?? null, clock.now());
        if (run !== null) sending.push(run);
      } catch (error) {
        log.error({ err: error, response: id, incident: incident.id }, 'a response could not act');
      }
  }
  return sending;
}

/** What was held back and is clear by now, or whose response is gone, off or stopped, is dropped. */
async function dropHeld({ db, clock, changes }: Actor): Promise<void> {
  const held = await heldRuns(db);
  if (held.length === 0) return;
  const ids = held.flatMap(({ incidentId }) => incidentId ?? []);
  const open = new Set((await incidentsByIds(db, ids)).filter(({ closedAt }) => closedAt === null).map(({ id }) => id));
  const acting = new Set(
    (await allResponses(db))
      .filter(({ response, stoppedAt }) => response.enabled && stoppedAt === null)
      .map(({ id }) => id)
  );
  for (const { id, incidentId, responseId, action } of held) {
    const isRaised = incidentId !== null && open.has(incidentId);
    if (isRaised && responseId !== null && acting.has(responseId)) continue;
    const says = isRaised ? 'Its response is off.' : 'It was clear before.';
    if ((await changeHeld(db, id, { state: 'dropped', says, action }, clock.now(), null)) !== null)
      changes.tell('responses', {});
  }
}

/** Takes up one incident. @returns what is to be sent; null for nothing */
async function takeOne(
  actor: Actor,
  stored: StoredResponse,
  incident: Incident,
  newest: StoredRun | null,
  now: Instant
): Promise<StoredRun | null> {
  const { db } = actor;
  const { response, id } = stored;
  // Whoever looks after it is not surprised by something else that does.
  if (incident.closedAt !== null || incident.judgedAfterwards || incident.acknowledgedBy !== null) return null;
  if (newest !== null && newest.state !== 'held' && !mayAgain(newest)) return null;
  const since = gravelySince(await severityChangesOf(db, incident.id), response.from);
  if (since === null || now < after(since, times(response.heldMinutes, minute))) return null;
  const resource = incident.resourceId === null ? null : await resourceById(db, incident.resourceId);
  if (!(await mayStill(actor, stored, resource, now))) return null;
  const found = await worked(actor, response.action, resource);
  return db.transaction(async (within) => {
    passes('deciding');
    await lockActs(within);
    const current = await responseById(within, id);
    if (current === null || current.version !== stored.version || current.stoppedAt !== null) return null;
    const last = (await newestRuns(within, id, [incident.id])).get(incident.id) ?? null;
    if (last?.id !== newest?.id || last?.state !== newest?.state) return null; // another engine was first
    const held = 'held' in found ? found.held : await heldBack(within, stored, resource, incident, now);
    const attempt = last === null ? 1 : last.attempt + (isOver(last.state) ? 1 : 0);
    const outcome =
      'dropped' in found
        ? { state: 'dropped' as const, says: found.dropped, action: response.action }
        : held !== null
          ? { state: 'held' as const, says: held, action: response.action }
          : { state: 'sending' as const, says: '', action: 'action' in found ? found.action : response.action };
    // That it rests before it does something again is nothing to be told.
    if (attempt > 1 && outcome.state === 'held') return null;
    const claimedUntil = outcome.state === 'sending' ? after(now, claimedFor) : null;
    const run =
      last?.state === 'held'
        ? await changeHeld(within, last.id, outcome, now, claimedUntil)
        : await insertRun(
            within,
            {
              ...{ key: randomUUID(), responseId: id, incidentId: incident.id, attempt, by: response.name },
              ...{ accountId: resource?.accountId ?? null, resourceId: resource?.id ?? null },
              ...{ resource: resource?.name ?? incident.subject, ...outcome }
            },
            now,
            claimedUntil
          );
    if (run === null) return null;
    if (run.state === 'sending') await recordDone(within, run, now);
    actor.changes.tell('responses', {});
    return run.state === 'sending' ? run : null;
  });
}

/** Once it has been seen what the last time came to, it may be tried again, unless there was nothing to be done. */
const mayAgain = ({ state, effect }: StoredRun): boolean =>
  isOver(state) && state !== 'dropped' && (state !== 'done' || effect !== null);

/** Whether it acts in the right of somebody who has it; a response that does not stops. */
async function mayStill(
  { db, changes }: Actor,
  { id, personId }: StoredResponse,
  resource: Resource | null,
  now: Instant
): Promise<boolean> {
  const person = personId === null ? null : await profileOf(db, personId);
  const accounts = await actRight.of(db, person?.disabledAt === null ? person : null);
  const may = accounts === null || (resource !== null && accounts.includes(resource.accountId));
  if (may) return true;
  const who = person?.displayName ?? 'Whoever saved it';
  await stopResponse(db, id, now, `${who} may not act on ${resource?.name ?? 'it'} any more.`);
  changes.tell('responses', {});
  return false;
}

/** What is to be done by what is possible now; why it waits, or why there is nothing to be done. */
async function worked(
  actor: Actor,
  action: Action,
  resource: Resource | null
): Promise<{ readonly action: Action } | { readonly held: string } | { readonly dropped: string }> {
  if (action.kind === 'webhook') return { action };
  if (resource === null || resource.endedAt !== null)
    return { dropped: 'It is about no single resource that there is.' };
  try {
    const abilities = await (await actsOf(actor, resource.accountId)).abilities(resource.providerId);
    if (action.kind !== 'more') {
      const why = whyNot(action, abilities);
      return why === null ? { action } : { dropped: why };
    }
    const to = abilities.count === null ? null : countAfter(action, abilities.count);
    if (to === null)
      return { dropped: abilities.count === null ? 'It has no count.' : `There are ${abilities.count.now} already.` };
    return { action: { kind: 'count', to } };
  } catch (error) {
    if (!isRefused(error)) throw error;
    return { held: error.message };
  }
}

/** Why nothing may be done with a resource now, in words; null when it may. */
async function heldBack(
  within: Parameters<typeof situationOf>[0],
  { id, response: { limits } }: StoredResponse,
  resource: Resource | null,
  incident: Incident,
  now: Instant
): Promise<string | null> {
  if (resource === null) return null;
  if (await isUnderWay(within, resource.id)) return 'Something else is under way with it.';
  const held: HeldBack | null = heldBackBy(limits, await situationOf(within, { id, limits }, resource, incident, now));
  return held?.says ?? null;
}

/** What a response does stands among the acts of people. */
const recordDone = (within: Parameters<typeof recordAct>[0], run: StoredRun, at: Instant): Promise<void> =>
  recordAct(within, {
    ...{ at, personId: null, by: run.by, means: 'response', act: 'response' },
    ...{ what: `Acts by itself: ${actionText(run.action)}`, subject: run.resource },
    ...{ path: run.incidentId === null ? '' : `/incidents/${run.incidentId}`, outcome: 'done', address: '' }
  });

/** Stops a response whose last acts failed, or did not help. */
export async function stopAfterFailures(actor: Actor, responseId: number): Promise<void> {
  const { db, clock, changes } = actor;
  const stored = await responseById(db, responseId);
  if (stored === null || stored.stoppedAt !== null) return;
  const { failuresToStop } = stored.response.limits;
  const failures = failuresOnEnd(await lastRuns(db, responseId, stored.changedAt, failuresToStop));
  if (failures < failuresToStop) return;
  await stopResponse(
    db,
    responseId,
    clock.now(),
    failures === 1 ? 'What it did failed, or did not help.' : `${failures} times on end it failed, or did not help.`
  );
  changes.tell('responses', {});
}
