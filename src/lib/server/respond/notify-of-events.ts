import { gravestLevel, severityBalls, watchedTitle } from '$lib/core/alarm';
import type { MessageContent } from '$lib/core/notify';
import { isRefused } from '$lib/core/problem/problem';
import { plainPick } from '$lib/core/signal';
import { before, hour, type Clock } from '$lib/core/time';
import { alarmById, type Alarm } from '../alarms/alarms';
import type { Database, Queryable } from '../db/pool';
import {
  eventsOfIncident,
  markHandled,
  unhandledEvents,
  unhandledSubjects,
  type IncidentEvent
} from '../incidents/events';
import { incidentById } from '../incidents/incidents';
import { metricByName } from '../inventory/metrics';
import { channelById } from '../notify/channels';
import type { Delivery } from '../notify/deliver';
import type { NewMessage } from '../notify/outbox';

export interface Notifier {
  readonly clock: Clock;
  readonly delivery: Delivery;
}

/** Messages about alarms that cannot be judged leave before all others. */
const mostUrgent = 50;
/** People are notified of a severity sooner than that something is clear again. */
const urgencyOf = { raised: 10, passed: 5, cleared: 4 };

/** An incident that was over longer ago when it became known is recorded, and nobody is notified of it. */
const latestNews = hour;
/** Incidents, and alarms that cannot be judged, that are looked at in one go. */
const handledAtOnce = 200;

/**
 * Queues messages about what has happened to incidents since the last time, for the confirmed channels of their alarms; unconfirmed ones receive nothing. Of an incident that opened and closed since then, because its
 * data came late or in batches, people are notified once, unless it was over more than an hour ago. That it became graver is told, that it became milder is not.
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
  let handled = 0;
  for (const { incidentId, alarmId } of subjects)
    try {
      await notifier.db.transaction(async (within) => {
        const events = await unhandledEvents(within, incidentId, alarmId);
        if (incidentId !== null) await notifyOfIncident(notifier, within, incidentId, events);
        else if (alarmId !== null && events.length > 0) await notifyOfUnjudged(notifier, within, alarmId);
        await markHandled(
          within,
          events.map(({ id }) => id),
          notifier.clock.now()
        );
      });
      handled++;
    } catch (error) {
      onFault(incidentId === null ? `alarm ${alarmId}` : `incident ${incidentId}`, error);
    }
  return subjects.length === handledAtOnce && handled > 0;
}

async function notifyOfIncident(
  notifier: Notifier,
  within: Queryable,
  incidentId: number,
  events: readonly IncidentEvent[]
): Promise<void> {
  const { clock } = notifier;
  const opened = events.find(({ kind }) => kind === 'opened');
  const closed = events.find(({ kind }) => kind === 'closed');
  const graver = events.findLast(({ kind }) => kind === 'severity');
  const news = closed ?? graver ?? opened;
  const incident = await incidentById(within, incidentId);
  if (news === undefined || incident === null || incident.alarmId === null) return;
  const isPassed = opened !== undefined && closed !== undefined;
  if (isPassed && closed.at < before(clock.now(), latestNews)) return;
  if (!opened && !closed && graver && (await isMilder(within, incidentId, graver))) return;
  const alarm = await readableAlarm(within, incident.alarmId);
  if (alarm === null) return;
  const { definition } = alarm;
  const level =
    definition.rule.levels.find(({ severity }) => severity === incident.severity) ?? gravestLevel(definition.rule);
  const pick = definition.signal ? plainPick(definition.signal) : null;
  const metric = pick ? ((await metricByName(within, pick.metric)) ?? undefined) : undefined;
  const kind = isPassed ? 'passed' : closed ? 'cleared' : 'raised';
  const content: MessageContent = {
    kind: 'incident',
    news: kind,
    incidentId: incident.id,
    alarm: definition.name,
    severity: incident.severity,
    subject: incident.subject,
    account: incident.account,
    region: incident.region,
    what: watchedTitle(definition, () => metric),
    unit: incident.unit ?? '1',
    condition: level.condition,
    openedAt: incident.openedAt,
    closedAt: closed?.at ?? null,
    value: news.value,
    peak: incident.peak
  };
  const priority = urgencyOf[kind] + severityBalls(incident.severity);
  await queueFor(notifier, within, alarm, { incidentId: incident.id, alarmId: null, content, priority });
}

/** An alarm with its channels; null for one that cannot be read, so that nobody knows whom to notify: it is named when Bussola starts, and on Watch. */
async function readableAlarm(within: Queryable, id: number): Promise<Alarm | null> {
  try {
    return await alarmById(within, id);
  } catch (error) {
    if (isRefused(error, 'stored-unreadable')) return null;
    throw error;
  }
}

/** Whether an incident became milder by an event: of severities, only a graver one is news. */
async function isMilder(within: Queryable, incidentId: number, event: IncidentEvent): Promise<boolean> {
  const before = (await eventsOfIncident(within, incidentId)).filter(({ id }) => id < event.id).at(-1);
  if (!before?.severity || !event.severity) return false;
  return severityBalls(event.severity) <= severityBalls(before.severity);
}

/** Queues the message that an alarm cannot be judged, since when and why, for its channels. One that can be judged again meanwhile is not news. */
async function notifyOfUnjudged(notifier: Notifier, within: Queryable, alarmId: number): Promise<void> {
  const alarm = await readableAlarm(within, alarmId);
  if (alarm === null || alarm.lastError === null) return;
  const { message, remedy, since } = alarm.lastError;
  const { name } = alarm.definition;
  const content: MessageContent = { kind: 'unjudged', alarmId: alarm.id, alarm: name, message, remedy, since };
  await queueFor(notifier, within, alarm, { incidentId: null, alarmId: alarm.id, content, priority: mostUrgent });
}

async function queueFor(
  { clock, delivery }: Notifier,
  within: Queryable,
  alarm: Alarm,
  about: Pick<NewMessage, 'incidentId' | 'alarmId' | 'content' | 'priority'>
): Promise<void> {
  for (const channelId of alarm.definition.channels) {
    const channel = await channelById(within, channelId);
    if (channel === null || channel.confirmedAt === null) continue;
    await delivery.enqueue(within, { ...about, channelId, createdAt: clock.now() });
  }
}
