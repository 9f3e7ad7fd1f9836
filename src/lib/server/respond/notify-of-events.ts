import { gravestLevel, severityBalls } from '$lib/core/alarm';
import type { MessageContent } from '$lib/core/notify';
import { afterEvent, type ThreadEvent } from '$lib/core/notify/route';
import { before, hour, type Clock, type Instant } from '$lib/core/time';
import { readableAlarm, type Alarm } from '../alarms/alarms';
import type { Database, Queryable } from '../db/pool';
import {
  eventsOfIncident,
  markHandled,
  noteUnreached,
  unhandledEvents,
  unhandledSubjects,
  type IncidentEvent
} from '../incidents/events';
import { incidentById, type Incident } from '../incidents/incidents';
import type { Delivery } from '../notify/deliver';
import { covers } from '$lib/core/shelving';
import { holdBack } from '../shelving/shelvings';
import { contactsNow, recipientsOf } from './recipients';
import { groupingValue, routedAlarm, routedIncident, routeOf, routingTable, type RoutingTable } from './routing';
import type { StoredRoute } from '../routing/routes';
import { lockThread, lockThreadsOf, noteInThread, saveThread, type StoredThread } from './threads';

export interface Notifier {
  readonly clock: Clock;
  readonly delivery: Delivery;
}

/** Messages about alarms that cannot be judged leave before all others. */
const mostUrgent = 50;
/** An incident that was over longer ago when it became known is recorded, and nobody is notified of it. */
const latestNews = hour;
/** Incidents, and alarms that cannot be judged, that are looked at in one go. */
const handledAtOnce = 200;

/**
 * Takes what has happened to incidents since the last time into the threads of the routes that have them: messages are made of these when they are due. Of an incident that opened and closed since then, because its
 * data came late or in batches, people are notified once, unless it was over more than an hour ago. That it became graver is news, that it became milder is not.
 *
 * Each incident is handled by itself: one of which nobody can be notified, whatever the reason, holds no other up, and is tried again the next time.
 *
 * @param onFault hears why nobody could be notified of one
 * @returns whether there may be more
 */
export async function notifyOfEvents(
  notifier: Notifier & { readonly db: Database },
  onFault: (subject: string, error: unknown) => void
): Promise<boolean> {
  const subjects = await unhandledSubjects(notifier.db, handledAtOnce);
  if (subjects.length === 0) return false;
  const table = await routingTable(notifier.db);
  let handled = 0;
  for (const { incidentId, alarmId } of subjects)
    try {
      await notifier.db.transaction(async (within) => {
        const events = await unhandledEvents(within, incidentId, alarmId);
        const now = notifier.clock.now();
        if (incidentId !== null) await takeIncident(within, table, incidentId, events, now);
        else if (alarmId !== null && events.length > 0) await notifyOfUnjudged(notifier, within, table, alarmId);
        await markHandled(
          within,
          events.map(({ id }) => id),
          now
        );
      });
      handled++;
    } catch (error) {
      onFault(incidentId === null ? `alarm ${alarmId}` : `incident ${incidentId}`, error);
    }
  return subjects.length === handledAtOnce && handled > 0;
}

/** Takes the events of an incident into the threads that have it; what opens, and what another route takes since it became graver, is routed first. */
async function takeIncident(
  within: Queryable,
  table: RoutingTable,
  incidentId: number,
  events: readonly IncidentEvent[],
  now: Instant
): Promise<void> {
  const incident = await incidentById(within, incidentId);
  if (incident === null || events.length === 0) return;
  const alarm = incident.alarmId === null ? null : await readableAlarm(within, incident.alarmId);
  const threads = new Map<number, StoredThread & { readonly route: StoredRoute }>();
  for (const one of await lockThreadsOf(within, incidentId)) {
    const route = table.byId.get(one.routeId);
    if (route) threads.set(one.id, { ...one, route });
  }
  const isTooLate = wasOverLongAgo(events, now);
  let isHeld = incident.shelvingId !== null;
  for (const event of events) {
    const kind = await newsOf(within, incidentId, event);
    if (kind === null || (isTooLate && (kind === 'opened' || kind === 'graver' || kind === 'closed'))) continue;
    const at = event.recordedAt;
    // What comes up while it is shelved is held back whole; what was held back and is clear is no news.
    if (!isHeld && (kind === 'opened' || kind === 'graver'))
      isHeld = await heldBy(within, table, incident, alarm, event);
    if (isHeld && kind !== 'ended') continue;
    const needsRoute = kind === 'opened' || kind === 'graver' || (kind === 'closed' && threads.size === 0);
    const thread = needsRoute ? await threadFor(within, table, incident, alarm, event, now) : null;
    const known = new Set(threads.keys());
    if (thread !== null && !known.has(thread.id)) {
      threads.set(thread.id, thread);
      await noteInThread(within, incidentId, thread.id);
    }
    for (const [id, one] of threads) {
      // Another route has it now: whoever was notified before hears when it is clear, and of no further step.
      const isHanded = kind === 'graver' && thread !== null && id !== thread.id && !known.has(thread.id);
      const applied: ThreadEvent = { kind: isHanded ? 'acknowledged' : kind, incidentId, at };
      threads.set(id, { ...one, thread: afterEvent(one.thread, applied, one.route.route) });
    }
  }
  for (const { id, thread, route } of threads.values()) await saveThread(within, id, thread, route.route);
}

/** Holds messages about an incident back when a shelving that is in force covers it. @returns whether one does */
async function heldBy(
  within: Queryable,
  table: RoutingTable,
  incident: Incident,
  alarm: Alarm | null,
  event: IncidentEvent
): Promise<boolean> {
  if (table.shelvings.length === 0) return false;
  const severity = event.severity ?? incident.severity;
  const routed = await routedIncident(within, table, incident, alarm?.definition ?? null, severity);
  const shelving = table.shelvings.find((one) => covers(one.shelving.scope, routed));
  if (shelving === undefined) return false;
  await holdBack(within, incident.id, shelving.id);
  return true;
}

/** The thread of the route that takes an incident; null when nobody is notified of it. */
async function threadFor(
  within: Queryable,
  table: RoutingTable,
  incident: Incident,
  alarm: Alarm | null,
  event: IncidentEvent,
  now: Instant
): Promise<(StoredThread & { readonly route: StoredRoute }) | null> {
  const severity = event.severity ?? incident.severity;
  const routed = await routedIncident(within, table, incident, alarm?.definition ?? null, severity);
  const { route } = routeOf(table, routed, alarm?.definition.route ?? null, event.recordedAt);
  if (route === null) {
    await noteUnreached(within, incident.id, now);
    return null;
  }
  return { ...(await lockThread(within, route.id, route.route, groupingValue(route.route, routed), now)), route };
}

/** What an event is to a thread; null for what nobody has to hear of. */
async function newsOf(
  within: Queryable,
  incidentId: number,
  event: IncidentEvent
): Promise<ThreadEvent['kind'] | null> {
  switch (event.kind) {
    case 'opened':
    case 'closed':
    case 'ended':
    case 'acknowledged':
    case 'unacknowledged':
      return event.kind;
    case 'rerouted':
    case 'unshelved':
      return 'opened';
    case 'shelved':
      return 'ended';
    case 'severity':
      return (await isMilder(within, incidentId, event)) ? null : 'graver';
    case 'unjudged':
    case 'unreached':
      return null;
    default:
      throw new RangeError(`newsOf: no event "${String(event.kind satisfies never)}"`);
  }
}

/** Whether an incident became known only when it had been over for long. */
function wasOverLongAgo(events: readonly IncidentEvent[], now: Instant): boolean {
  const opened = events.some(({ kind }) => kind === 'opened');
  const closed = events.find(({ kind }) => kind === 'closed');
  return opened && closed !== undefined && closed.at < before(now, latestNews);
}

/** Whether an incident became milder by an event: of severities, only a graver one is news. */
async function isMilder(within: Queryable, incidentId: number, event: IncidentEvent): Promise<boolean> {
  const before = (await eventsOfIncident(within, incidentId))
    .filter(({ id, severity }) => id < event.id && severity !== null)
    .at(-1);
  if (!before?.severity || !event.severity) return false;
  return severityBalls(event.severity) <= severityBalls(before.severity);
}

/** Queues the message that an alarm cannot be judged, since when and why, for the first step of its route. One that can be judged again meanwhile is not news. */
async function notifyOfUnjudged(
  { clock, delivery }: Notifier,
  within: Queryable,
  table: RoutingTable,
  alarmId: number
): Promise<void> {
  const alarm = await readableAlarm(within, alarmId);
  if (alarm === null || alarm.lastError === null) return;
  const { message, remedy, since } = alarm.lastError;
  const { definition } = alarm;
  const now = clock.now();
  const routed = routedAlarm(table, alarmId, definition, gravestLevel(definition.rule).severity);
  const { route } = routeOf(table, routed, definition.route, now);
  const content: MessageContent = { kind: 'unjudged', alarmId, alarm: definition.name, message, remedy, since };
  const targets = route?.route.steps[0]?.notify ?? [];
  for (const { channelId, personId } of recipientsOf(targets, await contactsNow(within, now)))
    await delivery.enqueue(within, {
      ...{ channelId, personId, incidentId: null, alarmId, content, priority: mostUrgent, createdAt: now }
    });
}
