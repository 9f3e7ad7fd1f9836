import { channelKinds, type ChannelKind } from '$lib/core/notify';
import type { Outbound } from '../../providers/port/outbound';
import { chatHookSender } from './chat-hook/chat-hook';
import { mailSender } from './mail/mail';
import type { Sender } from './sender';
import { textMessageSender, type Gateway } from './text-message/text-message';
import { webhookSender } from './webhook/webhook';

export type Senders = Readonly<Record<ChannelKind, Sender>>;

/** What senders need. */
export interface SenderParts {
  readonly smtpUrl: string;
  readonly mailFrom: string;
  readonly gateway: Gateway | null;
  /** Bussola's own address. */
  readonly origin: string;
  /** Calls addresses that people entered, where the policy permits it. */
  readonly call: Outbound;
}

/** The sender of each kind of channel: a further kind is a folder beside this file and a line here. @example sendersWith(parts).email.send(outgoing) */
export const sendersWith = ({ smtpUrl, mailFrom, gateway, origin, call }: SenderParts): Senders => ({
  email: mailSender(smtpUrl, mailFrom, origin),
  'chat-hook': chatHookSender(call),
  webhook: webhookSender(call, origin),
  'text-message': textMessageSender(call, gateway)
});

/** Ends all connections. */
export const closeSenders = (senders: Senders): void => channelKinds.forEach((kind) => senders[kind].close());
