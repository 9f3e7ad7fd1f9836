import { gravestLevel } from '$lib/core/alarm';
import { groupBy } from '$lib/core/lists/group-by';
import type { MessageContent } from '$lib/core/notify';
import { afterEvent, type ThreadEvent } from '$lib/core/notify/route';
import type { Clock, Instant } from '$lib/core/time';
import { readableAlarm } from '../alarms/alarms';
import type { Readers } from '../base/readers';
import { passes } from '../base/kill-points';
import type { Database, Queryable } from '../db/pool';
import {
  markHandled,
  noteUnreached,
  unhandledEvents,
  unhandledSubjects,
  type IncidentEvent
} from '../incidents/events';
import type { Incident } from '../incidents/incidents';
import type { Delivery } from '../notify/deliver';
import { covers } from '$lib/core/shelving';
import { holdBack } from '../shelving/shelvings';
import { readKnown, routedAt, type Known } from './known';
import { newsOf, wasOverLongAgo } from './news';
import { contactsNow, reachOf, recipientsOf } from './recipients';
import { groupingValue, routedAlarm, routeOf, routingTable, type RoutingTable } from './routing';
import type { StoredRoute } from '../routing/routes';
import { relatedValue } from './related-thread';
import type { ThreadOfIncident } from './threads';

export interface Notifier {
  readonly clock: Clock;
  readonly delivery: Delivery;
}

/** Messages about alarms that cannot be judged leave before all others. */
const mostUrgent = 50;
/** Incidents, and alarms that cannot be judged, that are looked at in one go. */
const handledAtOnce = 200;
type Subject = Awaited<ReturnType<typeof unhandledSubjects>>[number];
/** How many of these one transaction handles: a thread is read and stored once for all of them. */
const inOneTransaction = 25;
/** While people wait for answers the database is theirs for so long between two of these, ms: pages answer during a storm, and 2,000 incidents are still handled within seconds. */
const readersTurnMs = 100;

/**
 * Takes what has happened to incidents since the last time into the threads of the routes that have them: messages are made of these when they are due. Of an incident that opened and closed since then, because its
 * data came late or in batches, people are notified once, unless it was over more than an hour ago. That it became graver is news, that it became milder is not.
 *
 * They are handled some at a time, and where that fails each by itself: one of which nobody can be notified, whatever the reason, holds no other up, and is tried again the next time.
 *
 * @param onFault hears why nobody could be notified of one
 * @param passOver how many of the first are passed over: those that failed already in this round
 * @returns whether there may be more, and how many failed
 */
export async function notifyOfEvents(
  notifier: Notifier & { readonly db: Database; readonly readers: Readers },
  onFault: (subject: string, error: unknown) => void,
  passOver = 0
): Promise<{ readonly more: boolean; readonly failed: number }> {
  const subjects = await unhandledSubjects(notifier.db, handledAtOnce, passOver);
  if (subjects.length === 0) return { more: false, failed: 0 };
  const table = await routingTable(notifier.db);
  let failed = 0;
  for (let from = 0; from < subjects.length; from += inOneTransaction) {
    if (from > 0) await notifier.readers.quiet(readersTurnMs);
    const some = subjects.slice(from, from + inOneTransaction);
    if (!(await isDone(() => handle(notifier, table, some))))
      for (const one of some)
        try {
          await handle(notifier, table, [one]);
        } catch (error) {
          failed++;
          onFault(one.incidentId === null ? `alarm ${one.alarmId}` : `incident ${one.incidentId}`, error);
        }
  }
  return { more: subjects.length === handledAtOnce, failed };
}

/** Whether what is done together succeeds; where it does not, each is done by itself, and says by itself what is wrong with it. */
const isDone = (work: () => Promise<void>): Promise<boolean> =>
  work().then(
    () => true,
    () => false
  );

/** Handles what has happened to some incidents and alarms, in one transaction. What it needs of them is read at once: in a storm, each statement of its own would be one that a page waits for. */
async function handle(
  notifier: Notifier & { readonly db: Database },
  table: RoutingTable,
  subjects: readonly Subject[]
): Promise<void> {
  await notifier.db.transaction(async (within) => {
    const events = await unhandledEvents(
      within,
      subjects.flatMap(({ incidentId }) => incidentId ?? []),
      subjects.flatMap(({ alarmId }) => alarmId ?? [])
    );
    const now = notifier.clock.now();
    const known = await readKnown(within, events);
    for (const [incidentId, ofIncident] of groupBy(events, (event) => event.incidentId))
      if (incidentId !== null) await takeIncident(within, table, known, incidentId, ofIncident, now);
    const unjudged = new Set(events.flatMap((event) => (event.incidentId === null ? (event.alarmId ?? []) : [])));
    for (const alarmId of unjudged) await notifyOfUnjudged(notifier, within, table, alarmId);
    await markHandled(
      within,
      events.map(({ id }) => id),
      now
    );
    await known.threads.save();
    passes('routing');
  });
  passes('routed');
}

/** Takes the events of an incident into the threads that have it; what opens, and what another route takes since it became graver, is routed first. */
async function takeIncident(
  within: Queryable,
  table: RoutingTable,
  known: Known,
  incidentId: number,
  events: readonly IncidentEvent[],
  now: Instant
): Promise<void> {
  const incident = known.incidents.get(incidentId);
  if (incident === undefined) return;
  const threads = new Map<number, RoutedThread>();
  for (const one of await known.threads.of(incidentId, table.byId)) {
    const route = table.byId.get(one.routeId);
    if (route) threads.set(one.id, { ...one, route });
  }
  const isTooLate = wasOverLongAgo(events, now);
  let isHeld = incident.shelvingId !== null;
  for (const event of events) {
    const kind = await newsOf(within, incident, event);
    if (kind === null || (isTooLate && (kind === 'opened' || kind === 'graver' || kind === 'closed'))) continue;
    // What comes up while it is shelved is held back whole; what was held back and is clear is no news.
    if (!isHeld && (kind === 'opened' || kind === 'graver'))
      isHeld = await heldBy(within, table, known, incident, event);
    if (isHeld && kind !== 'ended') continue;
    const needsRoute = kind === 'opened' || kind === 'graver' || (kind === 'closed' && threads.size === 0);
    const taken = needsRoute ? await threadFor(within, table, known, incident, event, now) : null;
    if (needsRoute && taken === null && threads.size === 0) await noteUnreached(within, incidentId, now);
    if (taken !== null) {
      known.threads.note(incidentId, taken.id);
      for (const [id, one] of threads) threads.set(id, { ...one, isCurrent: false });
      threads.set(taken.id, { ...(threads.get(taken.id) ?? taken), isCurrent: true });
    }
    for (const [id, one] of threads) {
      const applied = appliedTo(one, kind, incidentId);
      if (applied === null) continue;
      const after = afterEvent(one.thread, { kind: applied, incidentId, at: event.recordedAt }, one.route.route);
      threads.set(id, { ...one, thread: after });
    }
  }
  for (const { id, thread } of threads.values()) known.threads.change(id, thread);
}

/** A thread of an incident, with its route. */
interface RoutedThread extends ThreadOfIncident {
  readonly route: StoredRoute;
}

/**
 * What an event is to one of the threads of an incident; null when it is not for that one. Once another route has the incident, whoever was notified before hears when it is clear, and of nothing else.
 */
function appliedTo(
  { isCurrent, thread }: RoutedThread,
  kind: ThreadEvent['kind'],
  incidentId: number
): ThreadEvent['kind'] | null {
  if (isCurrent || kind === 'closed' || kind === 'ended') return kind;
  const hasIt = thread.open.some((one) => one.incidentId === incidentId && !one.acknowledged);
  return kind === 'graver' && hasIt ? 'acknowledged' : null;
}

/** Holds messages about an incident back when a shelving that is in force covers it. @returns whether one does */
async function heldBy(
  within: Queryable,
  table: RoutingTable,
  known: Known,
  incident: Incident,
  event: IncidentEvent
): Promise<boolean> {
  if (table.shelvings.length === 0) return false;
  const routed = routedAt(table, known, incident, event);
  const shelving = table.shelvings.find((one) => covers(one.shelving.scope, routed));
  if (shelving === undefined) return false;
  await holdBack(within, incident.id, shelving.id);
  return true;
}

/** The thread of the route that takes an incident; null when nobody is notified of it. */
async function threadFor(
  within: Queryable,
  table: RoutingTable,
  known: Known,
  incident: Incident,
  event: IncidentEvent,
  now: Instant
): Promise<RoutedThread | null> {
  const routed = routedAt(table, known, incident, event);
  const { route } = routeOf(table, routed, known.raisers.get(incident.id)?.route ?? null, event.recordedAt);
  if (route === null) return null;
  let value = groupingValue(route.route, routed);
  if (route.route.group.by === 'related') {
    await known.threads.saveNoted();
    value = (await relatedValue(within, route.id, incident, now)) ?? value;
  }
  const thread = await known.threads.take(route.id, route.route, value, now);
  return { ...thread, route, isCurrent: true };
}

/** Queues the message that an alarm cannot be judged, since when and why, for the first step of its route that reaches anybody. One that can be judged again meanwhile is not news. */
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
  if (route === null) return;
  const contacts = await contactsNow(within, now);
  const steps = route.route.steps.map(({ notify }) => recipientsOf(notify, contacts, routed.severity));
  // Where everybody has quiet hours, the first of them hear of it when these end.
  const reached = steps.find((recipients) => reachOf(recipients).isReached) ?? steps.find(({ length }) => length > 0);
  for (const { channelId, personId, holdUntil } of reached ?? [])
    await delivery.enqueue(within, {
      ...{ channelId, personId, holdUntil, routeId: route.id, incidentId: null, alarmId, content, createdAt: now },
      priority: mostUrgent
    });
}
