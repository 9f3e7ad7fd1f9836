import { severityBalls, type Severity } from '$lib/core/alarm';
import type { MessageContent } from '$lib/core/notify';
import { dueMessages, hastened, isOver, type ThreadMessage } from '$lib/core/notify/route';
import { passes } from '../base/kill-points';
import type { Database, Queryable } from '../db/pool';
import { noteUnreached } from '../incidents/events';
import { contentOf } from './content';
import type { Notifier } from './notify-of-events';
import { contactsNow, reachOf, recipientsOf, type Contacts, type Recipient } from './recipients';
import { routeById, type StoredRoute } from '../routing/routes';
import { deleteThread, dueThreads, saveThread, takeThread } from './threads';

/** When more threads than these are due at once, their messages do not say what changed before: it would take longer to find than people may wait. */
const mostWithChanges = 20;
/** Threads that are looked at in one go. */
const handledAtOnce = 200;
/** People are notified of a severity sooner than that something is clear again. */
const urgencyOf = { raised: 10, passed: 5, cleared: 4, dismissed: 4 };

/**
 * Queues the messages of threads that are due. What is queued and what is remembered of a thread are written in one transaction: however the process ends, no message is lost and none is made twice. Where nobody of a step can be
 * reached, the next step is taken at once.
 *
 * @param onFault hears why a thread's messages could not be made; it is tried again the next time
 * @returns whether there may be more
 */
export async function sendDue(
  notifier: Notifier & { readonly db: Database },
  onFault: (subject: string, error: unknown) => void
): Promise<boolean> {
  const { db, clock } = notifier;
  const due = await dueThreads(db, clock.now(), handledAtOnce);
  if (due.length === 0) return false;
  const contacts = await contactsNow(db, clock.now());
  let handled = 0;
  for (const id of due)
    try {
      await db.transaction(async (within) => {
        await sendThread(notifier, within, id, contacts, due.length <= mostWithChanges);
        passes('queueing');
      });
      passes('queued');
      handled++;
    } catch (error) {
      onFault(`thread ${id}`, error);
    }
  return due.length === handledAtOnce && handled > 0;
}

async function sendThread(
  notifier: Notifier,
  within: Queryable,
  id: number,
  contacts: Contacts,
  withChanges: boolean
): Promise<void> {
  const stored = await takeThread(within, id);
  const route = stored === null ? null : await routeById(within, stored.routeId);
  if (stored === null || route === null) return;
  const now = notifier.clock.now();
  if (isOver(stored.thread, route.route, now)) return deleteThread(within, id);
  let { thread } = stored;
  let isHastened = false;
  // Each turn takes a step at least, or ends.
  for (let turn = 0; turn <= route.route.steps.length; turn++) {
    const made = dueMessages(thread, route.route, now);
    thread = made.thread;
    let reached = false;
    let asked = false;
    for (const message of made.messages) {
      // Where nobody of the steps before was reached, nobody has failed to acknowledge either.
      const why = isHastened && message.why === 'step' ? 'news' : message.why;
      const isReached = await queue(notifier, within, id, route, { ...message, why }, contacts, withChanges);
      reached ||= isReached;
      asked ||= message.open.length > 0;
    }
    if (!asked || reached) break;
    const next = hastened(thread, route.route, now);
    if (next === thread) {
      for (const incidentId of made.messages.at(-1)?.open ?? []) await noteUnreached(within, incidentId, now);
      break;
    }
    thread = next;
    isHastened = true;
  }
  await saveThread(within, id, thread, route.route);
}

/** Queues one message for whoever it is to. @returns whether anybody is reached by it at once */
async function queue(
  { delivery, clock }: Notifier,
  within: Queryable,
  threadId: number,
  route: StoredRoute,
  message: ThreadMessage,
  contacts: Contacts,
  withChanges: boolean
): Promise<boolean> {
  const possible = recipientsOf(message.to, contacts, null);
  if (possible.length === 0) return false;
  const made = await contentOf(within, route.route, message, namesOf(possible, contacts), withChanges);
  if (made === null) return true; // nothing is left that it could say
  const recipients = recipientsOf(message.to, contacts, gravestOf(made.content));
  for (const { channelId, personId, holdUntil } of recipients)
    await delivery.enqueue(within, {
      ...{ channelId, personId, holdUntil, threadId, routeId: route.id, alarmId: null, createdAt: clock.now() },
      ...{ content: made.content, priority: priorityOf(made.content), incidentIds: made.incidentIds },
      incidentId: made.incidentIds.length === 1 ? (made.incidentIds[0] ?? null) : null
    });
  // Whoever is not disturbed before the morning is not reached now: the next step does not wait for them.
  return reachOf(recipients).isReached;
}

/** What recipients are called: people once, however many channels they have, and whoever subscribes to a topic by its name. */
function namesOf(recipients: readonly Recipient[], { channels, subscribers, people }: Contacts): string[] {
  const channelOf = (id: number) => subscribers.find((one) => one.id === id)?.topicId ?? id;
  const names = recipients.map(
    ({ channelId, personId }) =>
      people.find(({ id }) => id === personId)?.displayName ??
      channels.find(({ id }) => id === channelOf(channelId))?.name ??
      ''
  );
  return [...new Set(names)];
}

const incidentsIn = (content: MessageContent) =>
  content.kind === 'grouped' ? content.incidents : content.kind === 'incident' ? [content] : [];

/** The gravest severity of what a message says; null when it says of none. */
const gravestOf = (content: MessageContent): Severity | null =>
  incidentsIn(content)
    .map(({ severity }) => severity)
    .sort((one, other) => severityBalls(other) - severityBalls(one))[0] ?? null;

function priorityOf(content: MessageContent): number {
  const incidents = incidentsIn(content);
  return Math.max(0, ...incidents.map(({ news, severity }) => urgencyOf[news] + severityBalls(severity)));
}
