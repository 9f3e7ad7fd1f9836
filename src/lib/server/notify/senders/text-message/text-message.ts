import { shortText } from '$lib/core/notify';
import type { Outbound } from '../../../providers/port/outbound';
import { postMessage } from '../post';
import type { Sender } from '../sender';

/** The gateway that takes text messages over HTTP. */
export interface Gateway {
  readonly url: string;
  readonly token: string;
}

/**
 * Sends text messages by a gateway: a POST of `{ to, text, id }`. A message with an id that the gateway knows already is not sent twice.
 *
 * @param gateway null when none is configured
 * @example await textMessageSender(fetch, { url: 'http://127.0.0.1:4301/text/messages', token: 't' }).send(outgoing)
 */
export const textMessageSender = (call: Outbound, gateway: Gateway | null): Sender => ({
  send: ({ channel, key, message }) => {
    if (gateway === null)
      throw new Error('No gateway for text messages is configured: set BUSSOLA_TEXT_GATEWAY and BUSSOLA_TEXT_TOKEN.');
    return postMessage(call, {
      url: gateway.url,
      shownUrl: gateway.url,
      headers: {
        'content-type': 'application/json',
        authorization: `Bearer ${gateway.token}`,
        'idempotency-key': key
      },
      body: JSON.stringify({ to: channel.address, text: shortText(message), id: key })
    });
  },
  close: () => undefined
});
