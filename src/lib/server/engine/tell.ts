import { incidentMessage, plainText } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Alarm } from '../alarms/alarms';
import { incidentById } from '../alarms/incidents';
import type { Queryable } from '../db/pool';
import type { Clock } from '$lib/core/time';
import { channelById } from '../notify/channels';
import type { Delivery } from '../notify/deliver';
import { mailHtml } from '../notify/mail';

export interface Teller {
  readonly clock: Clock;
  readonly delivery: Delivery;
  /** Bussola's own address, for links in messages. */
  readonly origin: string;
}

/** Queues the message of an incident for every confirmed channel of its alarm. Unconfirmed ones receive nothing. */
export async function tellOfIncident(
  { clock, delivery, origin }: Teller,
  within: Queryable,
  alarm: Alarm,
  watched: { readonly title: string; readonly unit: string },
  news: {
    readonly incidentId: number;
    readonly closedAt: Instant | null;
    readonly value: number;
    readonly peak: number;
  }
): Promise<void> {
  const incident = await incidentById(within, news.incidentId);
  if (incident === null) return;
  const message = incidentMessage(
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
      closedAt: news.closedAt,
      value: news.value,
      peak: news.peak,
      link: `${origin}/incidents/${incident.id}`
    },
    'UTC'
  );
  for (const channelId of alarm.definition.channels) {
    const channel = await channelById(within, channelId);
    if (channel === null || channel.confirmedAt === null) continue;
    await delivery.enqueue(within, {
      channelId,
      incidentId: incident.id,
      kind: news.closedAt === null ? 'raised' : 'cleared',
      subject: message.subject,
      text: plainText(message),
      html: mailHtml(message, 'Open the incident in Bussola'),
      createdAt: clock.now()
    });
  }
}
