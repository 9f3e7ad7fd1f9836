import { sentKinds, type SentKind } from '$lib/core/notify';
import type { Outbound } from '../../providers/port/outbound';
import { chatHookSender } from './chat-hook/chat-hook';
import { mailSender } from './mail/mail';
import type { PushKeys } from '../push-keys';
import { pushSender } from './push/push';
import type { Sender } from './sender';
import { textMessageSender, type Gateway } from './text-message/text-message';
import { webhookSender } from './webhook/webhook';

export type Senders = Readonly<Record<SentKind, Sender>>;

/** What senders need. */
export interface SenderParts {
  /** The mail server; null for none. */
  readonly smtpUrl: string | null;
  readonly mailFrom: string;
  readonly gateway: Gateway | null;
  /** What signs notifications to devices. */
  readonly pushKeys: () => Promise<PushKeys>;
  /** Bussola's own address. */
  readonly origin: string;
  /** Calls addresses that people entered, where the policy permits it. */
  readonly call: Outbound;
}

/** The sender of each kind of channel: a further kind is a folder beside this file and a line here. @example sendersWith(parts).email.send(outgoing) */
export const sendersWith = ({ smtpUrl, mailFrom, gateway, origin, call, pushKeys }: SenderParts): Senders => ({
  email: smtpUrl === null ? noMail : mailSender(smtpUrl, mailFrom, origin),
  'chat-hook': chatHookSender(call),
  webhook: webhookSender(call, origin),
  'text-message': textMessageSender(call, gateway),
  push: pushSender(call, pushKeys, origin)
});

/** Where no mail server is named, each mail fails and says so. */
const noMail: Sender = {
  send: () => {
    throw new Error('No mail server is configured: whoever runs Bussola names one in BUSSOLA_SMTP.');
  },
  close: () => undefined
};

/** Ends all connections. */
export const closeSenders = (senders: Senders): void => sentKinds.forEach((kind) => senders[kind].close());
