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
import { after, before, minute, second, times, type Instant } from '$lib/core/time';
import { passes } from '../base/kill-points';
import { recordAct } from '../audit/acts';
import type { Queryable } from '../db/pool';
import { severityChangesOf } from '../incidents/events';
import { incidentById, incidentsByIds, unattendedOfAlarm, type Incident } from '../incidents/incidents';
import { resourceById, type Resource } from '../inventory/resources';
import { actRight } from '../people/act-access';
import { profileOf } from '../people/people';
import { actsOf } from './provider-acts';
import { allResponses, responseById, stopResponse, type StoredResponse } from './responses';
import { changeHeld, heldRuns, insertRun, isUnderWay, lastRuns, lockActs, newestRuns, type StoredRun } from './runs';
import { claimedFor, type Actor } from './send-run';
import { situationOf } from './situation';

/** Incidents that one look goes into; in a storm, the others follow with the next ones. */
const mostAtOnce = 50;
/** How soon one is looked at again that nothing was done about, and one whose provider could not be asked. */
const [lookAgain, askAgain] = [times(10, second), times(60, second)];

/** When responses look at incidents again, so that neither the database nor a provider is asked twice a second; for one process. */
export class Looks {
  readonly #next = new Map<string, Instant>();

  isDue(key: string, now: Instant): boolean {
    const next = this.#next.get(key);
    // What is later than looks are was noted by a clock that has been set back since.
    return next === undefined || next <= now || next > after(now, askAgain);
  }

  note(key: string, next: Instant): void {
    this.#next.set(key, next);
  }

  /** Forgets all but some. */
  forgetOthers(keys: ReadonlySet<string>): void {
    for (const key of this.#next.keys()) if (!keys.has(key)) this.#next.delete(key);
  }
}

/**
 * Takes up what responses are to do by now: what their alarms have raised for long enough, as far as limits permit. What they do not is held back, with the reason, until they do or it is clear.
 *
 * @returns what is to be sent; it is written down already
 */
export async function takeUp(actor: Actor, looks: Looks): Promise<StoredRun[]> {
  const { db, clock, log } = actor;
  await dropHeld(actor);
  const now = clock.now();
  const seen = new Set<string>();
  const due: { readonly stored: StoredResponse; readonly incidentId: number; readonly key: string }[] = [];
  for (const stored of await allResponses(db)) {
    const { response, id, version, stoppedAt } = stored;
    if (!response.enabled || stoppedAt !== null) continue;
    const raisedBy = before(now, times(response.heldMinutes, minute));
    for (const incidentId of await unattendedOfAlarm(db, response.alarmId, raisedBy)) {
      const key = `${id} ${version} ${incidentId}`;
      seen.add(key);
      if (looks.isDue(key, now)) due.push({ stored, incidentId, key });
    }
  }
  looks.forgetOthers(seen);
  const sending: StoredRun[] = [];
  for (const { stored, incidentId, key } of due.slice(0, mostAtOnce)) {
    looks.note(key, after(now, lookAgain));
    try {
      const taken = await takeOne(actor, stored, incidentId, now);
      if (taken === 'not asked') looks.note(key, after(now, askAgain));
      else if (taken !== null) sending.push(taken);
    } catch (error) {
      log.error({ err: error, response: stored.id, incident: incidentId }, 'a response could not act');
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

/** What one look came to: something is to be sent, nothing is, or the provider could not be asked. */
type Taken = StoredRun | 'not asked' | null;

/** Takes up one incident. */
async function takeOne(actor: Actor, stored: StoredResponse, incidentId: number, now: Instant): Promise<Taken> {
  const { db, changes } = actor;
  const { response, id } = stored;
  const newest = (await newestRuns(db, id, [incidentId])).get(incidentId) ?? null;
  if (newest !== null && newest.state !== 'held' && !mayAgain(newest)) return null;
  const since = gravelySince(await severityChangesOf(db, incidentId), response.from);
  if (since === null || now < after(since, times(response.heldMinutes, minute))) return null;
  const incident = await incidentById(db, incidentId);
  if (incident === null) return null;
  const resource = incident.resourceId === null ? null : await resourceById(db, incident.resourceId);
  if (!(await mayStill(actor, stored, resource, now))) return null;
  // Limits first: a provider is asked only about what may be done.
  const held = await heldBack(db, stored, resource, incident, now);
  const found = held === null ? await worked(actor, response.action, resource) : { held };
  const run = await db.transaction((within) => decide(within, stored, incident, resource, newest, found, now));
  if (run !== null) changes.tell('responses', {});
  if (run?.state === 'sending') return run;
  return held === null && 'held' in found ? 'not asked' : null;
}

/** Writes down what is to be done, or why not, unless something has changed since it was looked at. @returns what was written; null for nothing new */
async function decide(
  within: Queryable,
  stored: StoredResponse,
  incident: Incident,
  resource: Resource | null,
  newest: StoredRun | null,
  found: Worked,
  now: Instant
): Promise<StoredRun | null> {
  passes('deciding');
  await lockActs(within);
  const { response, id } = stored;
  const current = await responseById(within, id);
  if (current === null || current.version !== stored.version || current.stoppedAt !== null) return null;
  // Whoever looks after it by now is not surprised by something else that does.
  const open = await incidentById(within, incident.id);
  if (open === null || open.closedAt !== null || open.acknowledgedBy !== null) return null;
  const last = (await newestRuns(within, id, [incident.id])).get(incident.id) ?? null;
  if (last?.id !== newest?.id || last?.state !== newest?.state) return null;
  const held = 'held' in found ? found.held : await heldBack(within, stored, resource, incident, now);
  const attempt = last === null ? 1 : last.attempt + (isOver(last.state) ? 1 : 0);
  const outcome =
    'dropped' in found
      ? { state: 'dropped' as const, says: found.dropped, action: response.action }
      : held !== null
        ? { state: 'held' as const, says: held, action: response.action }
        : { state: 'sending' as const, says: '', action: 'action' in found ? found.action : response.action };
  // That it pauses before it does something again is nothing to be told.
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
  if (run?.state === 'sending') await recordDone(within, run, now);
  return run;
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
type Worked = { readonly action: Action } | { readonly held: string } | { readonly dropped: string };

async function worked(actor: Actor, action: Action, resource: Resource | null): Promise<Worked> {
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
  within: Queryable,
  { id, response: { limits } }: StoredResponse,
  resource: Resource | null,
  incident: Incident,
  now: Instant
): Promise<string | null> {
  if (resource !== null && (await isUnderWay(within, resource.id))) return 'Something else is under way with it.';
  const held: HeldBack | null = heldBackBy(limits, await situationOf(within, { id, limits }, resource, incident, now));
  return held?.says ?? null;
}

/** What a response does stands among the acts of people. */
const recordDone = (within: Queryable, run: StoredRun, at: Instant): Promise<void> =>
  recordAct(within, {
    ...{ at, personId: null, by: run.by, means: 'response', act: 'response' },
    ...{ what: `Acts by itself: ${actionText(run.action)}`, subject: run.resource, id: run.responseId },
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
