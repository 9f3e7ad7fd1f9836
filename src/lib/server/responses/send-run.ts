import { watchedMinutes, type Action, type ProviderAction } from '$lib/core/response';
import { isRefused } from '$lib/core/problem/problem';
import { after, duration, minute, second, times, type Clock, type Duration, type Instant } from '$lib/core/time';
import { passes } from '../base/kill-points';
import type { Changes } from '../base/changes';
import { incidentById } from '../incidents/incidents';
import { resourceById } from '../inventory/resources';
import type { ActAnswer, Acts } from '../providers/port/acts';
import { ProviderError } from '../providers/port/provider';
import type { Logger } from 'pino';
import type { Outbound } from '../providers/port/outbound';
import { callWebhook } from './call-webhook';
import { actsOf, type ActParts } from './provider-acts';
import { noteRun, type RunNews, type StoredRun } from './runs';

/** What doing things with resources needs. */
export interface Actor extends ActParts {
  readonly clock: Clock;
  readonly changes: Changes;
  readonly log: Logger;
  readonly origin: string;
  readonly call: Outbound;
}

/** One process is about something for so long; one that ends meanwhile leaves it to others. */
export const claimedFor = times(60, second);
/** How soon it is asked again how something stands. */
const askAgain = times(5, second);
/** A request that a provider never received within this is not on its way any more. */
const onItsWay = times(60, second);
/** What its provider cannot say for so long, nobody will know. */
const patience = times(15, minute);
/** So long something may be under way. */
const longest = times(60, minute);

/** Keys of what this process sends right now. The provider may not have received it yet however late it is, as on a slow machine or after the clock jumped: to ask would be to learn that it was never received. */
const sendingHere = new Set<string>();

/**
 * Tells a provider what it is to do, once: what was written down before is never sent a second time, whatever happens. Where the answer is lost, the provider is asked what came of it; where it cannot say, it is said to be unknown.
 *
 * @param run that is `sending`, as it was written down just now
 */
export async function sendRun(actor: Actor, run: StoredRun): Promise<void> {
  sendingHere.add(run.key);
  try {
    await sendAndNote(actor, run);
  } finally {
    sendingHere.delete(run.key);
  }
}

async function sendAndNote(actor: Actor, run: StoredRun): Promise<void> {
  passes('decided');
  const news = await sent(actor, run);
  passes('acted');
  await noteRun(actor.db, run.id, news, true);
  passes('answered');
  actor.changes.tell('responses', {});
}

async function sent(actor: Actor, run: StoredRun): Promise<RunNews> {
  const { clock } = actor;
  try {
    if (run.action.kind === 'webhook') {
      await callWebhook(actor, run, run.action.channelId);
      return newsOf({ state: 'done', says: '' }, run, clock.now());
    }
    const resource = run.resourceId === null ? null : await resourceById(actor.db, run.resourceId);
    const acts = await actsFor(actor, run);
    const answer = await acts.act(resource?.providerId ?? '', providerAction(run.action), run.key);
    return newsOf(answer, run, clock.now());
  } catch (error) {
    return afterFailure(actor, run, error);
  }
}

/** What is known after an answer was refused or lost. */
async function afterFailure(actor: Actor, run: StoredRun, error: unknown): Promise<RunNews> {
  const now = actor.clock.now();
  const over = (state: 'refused' | 'unknown', says: string): RunNews => ({ state, says, endedAt: now, dueAt: null });
  if (isRefused(error) && !isLost(error)) return over('refused', wordsOf(error));
  if (!isRefused(error)) actor.log.error({ err: error, run: run.id }, 'something could not be done');
  const says = isRefused(error) ? error.message : 'Bussola failed while it was sent.';
  const canSay = run.action.kind !== 'webhook' && (await actsFor(actor, run).catch(() => null))?.outcome !== undefined;
  return canSay
    ? { state: 'sending', says: `${says} Its provider is asked what came of it.`, endedAt: null, dueAt: now }
    : over('unknown', `${says} The answer is lost.`);
}

/** Why a connection was never made. */
const neverSent: ReadonlySet<string> = new Set([
  'ECONNREFUSED',
  'ENOTFOUND',
  'EAI_AGAIN',
  'EHOSTUNREACH',
  'ENETUNREACH'
]);

/** Whether it may have been done all the same: the request went out, and no answer says that it was refused. */
function isLost(error: unknown): boolean {
  if (!(error instanceof ProviderError)) return false;
  const status = error.answered?.status;
  for (let inner: unknown = error; inner instanceof Error; inner = inner.cause)
    if (neverSent.has(String((inner as { code?: unknown }).code))) return false;
  return status === undefined ? error.code === 'unreachable' || error.code === 'malformed' : status >= 500;
}

/** What a provider said when it refused, without a remedy that is about reading. */
const wordsOf = (error: { readonly message: string }): string =>
  (error instanceof ProviderError && error.answered?.status === 409 && error.answered.detail) || error.message;

/** Asks how something stands that was sent, or may have been; what this process still sends has its answer later. */
export async function askAfter(actor: Actor, run: StoredRun): Promise<void> {
  if (sendingHere.has(run.key)) return;
  const news = await asked(actor, run);
  const isNews = news.state !== run.state || news.says !== run.says;
  await noteRun(actor.db, run.id, news);
  if (isNews) actor.changes.tell('responses', {});
}

async function asked(actor: Actor, run: StoredRun): Promise<RunNews> {
  const now = actor.clock.now();
  const since = duration(Math.max(0, now - (run.sentAt ?? now)));
  const over = (state: 'failed' | 'unknown', says: string): RunNews => ({ state, says, endedAt: now, dueAt: null });
  const again = (says: string): RunNews => ({ state: run.state, says, endedAt: null, dueAt: after(now, askAgain) });
  const outcome = run.action.kind === 'webhook' ? undefined : (await actsFor(actor, run).catch(() => null))?.outcome;
  if (outcome === undefined)
    return over('unknown', 'Bussola ended while it was sent, and its provider cannot say what came of it.');
  try {
    const answer = await outcome(run.key);
    if (answer === null)
      return since < onItsWay ? again(run.says) : over('failed', 'Its provider never received it: nothing was done.');
    if (answer.state === 'going' && since >= longest)
      return over('unknown', 'It has been under way for an hour, and its provider does not say how it ends.');
    return newsOf(answer, run, now);
  } catch (error) {
    if (!(error instanceof ProviderError)) throw error;
    return since < patience
      ? again(`${error.message} It is asked again.`)
      : over('unknown', `${error.message} Look at the provider whether it was done.`);
  }
}

/** What a provider's answer comes to. What was done about an incident is watched. */
function newsOf({ state, says }: ActAnswer, run: StoredRun, now: Instant): RunNews {
  if (state === 'going') return { state, says, endedAt: null, dueAt: after(now, askAgain) };
  return { state, says, endedAt: now, dueAt: state === 'done' && run.incidentId !== null ? now : null };
}

/** What came of something that was done about an incident; null while that is watched. */
export async function effectOf(
  { db, clock }: Pick<Actor, 'db' | 'clock'>,
  { incidentId, endedAt }: StoredRun
): Promise<{ readonly effect: 'cleared' | 'still raised'; readonly at: Instant } | null | 'gone'> {
  const now = clock.now();
  const incident = incidentId === null ? null : await incidentById(db, incidentId);
  if (incident === null || endedAt === null) return 'gone';
  // By the data, it may have been clear a little before it was known to be done.
  if (incident.clearAt !== null)
    return { effect: 'cleared', at: incident.clearAt < endedAt ? endedAt : incident.clearAt };
  if (incident.closedAt !== null) return 'gone';
  return now - endedAt >= times(watchedMinutes, minute) ? { effect: 'still raised', at: now } : null;
}

/** When what came of something is looked at again. */
export const watchAgain: Duration = times(10, second);

/** @throws Refusal where its account is gone */
const actsFor = (actor: Actor, { accountId }: StoredRun): Promise<Acts> => actsOf(actor, accountId ?? 0);

/** Counts are known by now: they were worked out before it was written down. */
function providerAction(action: Action): ProviderAction {
  if (action.kind === 'more' || action.kind === 'webhook')
    throw new TypeError(`providerAction: ${action.kind} is nothing that a provider does`);
  return action;
}
