import { CloudEvent, HTTP } from 'cloudevents';
import { Webhook } from 'standardwebhooks';
import { Refusal } from '$lib/core/problem/problem';
import type { Clock } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';
import { channelById, secretOfChannel } from '../notify/channels';
import { postMessage } from '../notify/senders/post';
import { NotTaken } from '../notify/senders/sender';
import type { Outbound } from '../providers/port/outbound';
import { ProviderError } from '../providers/port/provider';
import type { StoredRun } from './runs';

/** What calling a webhook needs. */
interface WebhookParts {
  readonly db: Queryable;
  readonly secrets: SecretBox;
  readonly clock: Clock;
  readonly call: Outbound;
  readonly origin: string;
}

/**
 * Posts a CloudEvent `bussola.response` to a webhook of one's own, signed as by Standard Webhooks, once. Its id is the key of the run: whoever receives it does what is to be done once for each.
 *
 * @returns what it answered, in words
 * @throws Refusal when the channel is gone or not confirmed; ProviderError for whatever it answered, or that it did not
 */
export async function callWebhook(
  { db, secrets, clock, call, origin }: WebhookParts,
  run: StoredRun,
  channelId: number
): Promise<string> {
  const channel = await channelById(db, channelId);
  if (channel === null || channel.kind !== 'webhook')
    throw new Refusal('not-found', 'The webhook was removed.', 'Choose another one.');
  if (channel.confirmedAt === null)
    throw new Refusal('not-confirmed', `The channel ${channel.name} is not confirmed.`, 'Confirm it first.');
  const at = clock.now();
  const event = new CloudEvent({
    ...{ id: run.key, type: 'bussola.response', source: origin, time: new Date(at).toISOString() },
    ...(run.incidentId !== null && { subject: `incident-${run.incidentId}` }),
    ...{ datacontenttype: 'application/json' },
    data: { resource: run.resource, by: run.by, ...(run.incidentId !== null && { incident: run.incidentId }) }
  });
  const { headers, body } = HTTP.structured(event);
  const text = String(body);
  const signatures = ((await secretOfChannel(db, secrets, channelId)).secrets ?? [])
    .filter(({ until }) => until === null || until > at)
    .map(({ secret }) => new Webhook(secret).sign(run.key, new Date(at), text));
  const plain = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]));
  try {
    await postMessage(call, {
      ...{ url: channel.address, shownUrl: channel.address, body: text },
      headers: {
        ...plain,
        'webhook-id': run.key,
        'webhook-timestamp': String(Math.floor(at / 1000)),
        'webhook-signature': signatures.join(' ')
      }
    });
    return '';
  } catch (error) {
    if (error instanceof Refusal) throw error;
    if (error instanceof NotTaken) {
      const status = Number(error.exchange.answer.slice(0, 3));
      throw new ProviderError('refused', `The webhook ${error.message}.`, 'Look at what receives it.', {
        cause: error,
        answered: { status, detail: error.message }
      });
    }
    throw new ProviderError('unreachable', 'The webhook could not be reached.', 'Look at what receives it.', {
      cause: error
    });
  }
}
