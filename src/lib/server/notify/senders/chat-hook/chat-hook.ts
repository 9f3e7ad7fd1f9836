import type { Outbound } from '../../../providers/port/outbound';
import { postMessage } from '../post';
import type { Sender } from '../sender';
import { chatBody } from './chat-body';

/**
 * Posts JSON into a chat room, in the shape that its template gives. The whole address is a secret, since whoever has it may post there.
 *
 * @example await chatHookSender(fetch).send(outgoing)
 */
export const chatHookSender = (call: Outbound): Sender => ({
  send: ({ channel, secret, message, content }) => {
    if (secret.url === undefined) throw new Error('The address of this chat hook cannot be read.');
    return postMessage(call, {
      url: secret.url,
      shownUrl: channel.address,
      headers: { 'content-type': 'application/json' },
      body: chatBody(channel.settings.template ?? null, message, content)
    });
  },
  close: () => undefined
});
