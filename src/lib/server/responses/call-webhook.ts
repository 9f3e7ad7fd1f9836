import { CloudEvent } from 'cloudevents';
import { Refusal } from '$lib/core/problem/problem';
import type { Clock } from '$lib/core/time';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';
import { channelById, secretOfChannel } from '../notify/channels';
import { NotTaken } from '../notify/senders/sender';
import { postSigned } from '../notify/senders/webhook/webhook';
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
 * @throws Refusal when the channel is gone or not confirmed; ProviderError for whatever it answered, or that it did not
 */
export async function callWebhook(
  { db, secrets, clock, call, origin }: WebhookParts,
  run: StoredRun,
  channelId: number
): Promise<void> {
  const channel = await channelById(db, channelId);
  if (channel === null || channel.kind !== 'webhook')
    throw new Refusal('not-found', 'The webhook was removed.', 'Choose another one.');
  if (channel.confirmedAt === null)
    throw new Refusal('not-confirmed', `The channel ${channel.name} is not confirmed.`, 'Confirm it first.');
  const at = clock.now();
  const event = new CloudEvent<object>({
    ...{ id: run.key, type: 'bussola.response', source: origin, time: new Date(at).toISOString() },
    ...(run.incidentId !== null && { subject: `incident-${run.incidentId}` }),
    ...{ datacontenttype: 'application/json' },
    data: {
      ...{ response: run.by, resource: run.resource },
      ...(run.incidentId !== null && { incident: run.incidentId, link: `${origin}/incidents/${run.incidentId}` })
    }
  });
  const secret = await secretOfChannel(db, secrets, channelId);
  try {
    await postSigned(call, { channel, secret }, event, at);
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
