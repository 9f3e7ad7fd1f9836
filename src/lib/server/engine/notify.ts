import { severityBalls } from '$lib/core/alarm';
import { incidentMessage, passedMessage, plainText, unjudgedMessage, type Message } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Alarm } from '../alarms/alarms';
import { incidentById } from '../incidents/incidents';
import type { Queryable } from '../db/pool';
import type { Clock } from '$lib/core/time';
import { channelById } from '../notify/channels';
import type { Delivery } from '../notify/deliver';
import { mailHtml } from '../notify/mail';
import type { NewMessage } from '../notify/outbox';

export interface Notifier {
  readonly clock: Clock;
  readonly delivery: Delivery;
  /** Bussola's own address, for links in messages. */
  readonly origin: string;
}

/** Messages about alarms that cannot be judged leave before all others. */
const mostUrgent = 50;
/** People are notified of a severity sooner than that something is clear again. */
const urgencyOf = { raised: 10, passed: 5, cleared: 4 };

/** Queues the message of an incident for every confirmed channel of its alarm. Unconfirmed ones receive nothing. */
export async function notifyOfIncident(
  { clock, delivery, origin }: Notifier,
  within: Queryable,
  alarm: Alarm,
  watched: { readonly title: string; readonly unit: string },
  news: {
    readonly incidentId: number;
    readonly closedAt: Instant | null;
    /** Whether it was raised and cleared before anybody could be notified. */
    readonly isPassed?: boolean;
    readonly value: number;
    readonly peak: number;
  }
): Promise<void> {
  const incident = await incidentById(within, news.incidentId);
  if (incident === null) return;
  const make = news.isPassed ? passedMessage : incidentMessage;
  const message = make(
    {
      alarm: alarm.definition.name,
      severity: incident.severity,
      subject: incident.subject,
      account: incident.account,
      region: incident.region,
      what: watched.title,
      unit: watched.unit,
      condition: alarm.definition.rule.condition,
      openedAt: incident.openedAt,
      writtenAt: clock.now(),
      closedAt: news.closedAt,
      value: news.value,
      peak: news.peak,
      link: `${origin}/incidents/${incident.id}`
    },
    'UTC'
  );
  const kind = news.isPassed ? 'passed' : news.closedAt === null ? 'raised' : 'cleared';
  const priority = urgencyOf[kind] + severityBalls(incident.severity);
  const about = { incidentId: incident.id, alarmId: null, kind, priority } as const;
  await queueFor({ clock, delivery }, within, alarm, message, 'Open the incident in Bussola', about);
}

/** Queues the message that an alarm cannot be judged, since when and why, for its channels. */
export async function notifyOfUnjudged(
  { clock, delivery, origin }: Notifier,
  within: Queryable,
  alarm: Alarm,
  error: NonNullable<Alarm['lastError']>
): Promise<void> {
  const message = unjudgedMessage(
    { alarm: alarm.definition.name, ...error, writtenAt: clock.now(), link: `${origin}/alarms/${alarm.id}` },
    'UTC'
  );
  const about = { incidentId: null, alarmId: alarm.id, kind: 'unjudged', priority: mostUrgent } as const;
  await queueFor({ clock, delivery }, within, alarm, message, 'Open the alarm in Bussola', about);
}

async function queueFor(
  { clock, delivery }: Pick<Notifier, 'clock' | 'delivery'>,
  within: Queryable,
  alarm: Alarm,
  message: Message,
  linkText: string,
  about: Pick<NewMessage, 'incidentId' | 'alarmId' | 'kind' | 'priority'>
): Promise<void> {
  for (const channelId of alarm.definition.channels) {
    const channel = await channelById(within, channelId);
    if (channel === null || channel.confirmedAt === null) continue;
    await delivery.enqueue(within, {
      ...about,
      channelId,
      subject: message.subject,
      text: plainText(message),
      html: mailHtml(message, linkText),
      createdAt: clock.now()
    });
  }
}
