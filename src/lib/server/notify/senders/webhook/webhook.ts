import { CloudEvent, HTTP, type Message as HttpMessage } from 'cloudevents';
import { Webhook } from 'standardwebhooks';
import type { Instant } from '$lib/core/time';
import type { Outbound } from '../../../providers/port/outbound';
import { postMessage } from '../post';
import type { Channel } from '../../channels';
import type { Exchange, Outgoing, Sender } from '../sender';

/**
 * Posts CloudEvents, signed as by Standard Webhooks with every secret that still counts: while secrets are exchanged, receivers that know the old one or the new one verify it.
 *
 * @param origin Bussola's own address, the source of the events
 * @example await webhookSender(fetch, 'https://bussola.example.test').send(outgoing)
 */
export function webhookSender(call: Outbound, origin: string): Sender {
  return {
    send: (outgoing) => postSigned(call, outgoing, eventOf(outgoing, origin), outgoing.at),
    close: () => undefined
  };
}

/**
 * Posts an event to a webhook, in the mode that its channel says, signed with every secret that still counts.
 *
 * @throws NotTaken for an answer other than of success; whatever the call throws when there is none
 */
export function postSigned(
  call: Outbound,
  { channel, secret }: Pick<Outgoing, 'secret'> & { readonly channel: Pick<Channel, 'address' | 'settings'> },
  event: CloudEvent<object>,
  at: Instant
): Promise<Exchange> {
  const { headers, body } = channel.settings.mode === 'binary' ? HTTP.binary(event) : HTTP.structured(event);
  const text = String(body);
  const signatures = (secret.secrets ?? [])
    .filter(({ until }) => until === null || until > at)
    .map((one) => new Webhook(one.secret).sign(event.id, new Date(at), text));
  const url = channel.address;
  return postMessage(call, {
    url,
    shownUrl: url,
    headers: {
      ...plainHeaders(headers),
      'webhook-id': event.id,
      'webhook-timestamp': String(Math.floor(at / 1000)),
      'webhook-signature': signatures.join(' ')
    },
    body: text
  });
}

const plainHeaders = (headers: HttpMessage['headers']): Record<string, string> =>
  Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]));

/** @example eventOf(outgoing, origin).type // 'bussola.incident.raised' */
function eventOf({ key, content, message, at }: Outgoing, origin: string): CloudEvent<object> {
  const type = content.kind === 'incident' ? `bussola.incident.${content.news}` : `bussola.${content.kind}`;
  const { subject, heading, sentence, link, acknowledge } = message;
  return new CloudEvent<object>({
    id: key,
    type,
    source: origin,
    ...(content.kind === 'incident' && { subject: `incident-${content.incidentId}` }),
    time: new Date(at).toISOString(),
    datacontenttype: 'application/json',
    data: {
      ...factsOf(content),
      summary: subject,
      title: heading,
      text: sentence,
      link,
      ...(acknowledge && { acknowledge })
    }
  });
}

/** What a message says as data, its instants as RFC 3339. */
function factsOf(content: Outgoing['content']): object {
  if (content.kind === 'grouped') {
    const { why, together, more, incidents } = content;
    return { why, together, more, incidents: incidents.map((incident) => ({ ...incident, ...instantsOf(incident) })) };
  }
  if (content.kind !== 'incident') return {};
  const { kind: _kind, news: _news, ...facts } = content;
  return { ...facts, ...instantsOf(content) };
}

const instantsOf = ({ openedAt, closedAt }: { openedAt: Instant; closedAt: Instant | null }) => ({
  openedAt: new Date(openedAt).toISOString(),
  closedAt: closedAt === null ? null : new Date(closedAt).toISOString()
});
