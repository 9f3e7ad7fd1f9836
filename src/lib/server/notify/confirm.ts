import { plainText, type Message } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Channel } from './channels';
import { mailHtml } from './mail';
import type { NewMessage } from './outbox';

/** What is queued to ask the person behind an address: the mail itself is made when it is sent, since its link is a secret. */
export const confirmMessage = (channelId: number, address: string, createdAt: Instant): NewMessage => ({
  channelId,
  incidentId: null,
  alarmId: null,
  kind: 'confirm',
  subject: `Confirm that Bussola may send alarms to ${address}`,
  text: '',
  html: '',
  priority: 0,
  createdAt
});

/**
 * The mail that asks the person behind an address whether they agree to receive alarms.
 *
 * @param origin Bussola's own address
 * @example confirmMail(channel, token, 'https://bussola.example.test').subject
 */
export function confirmMail(channel: Pick<Channel, 'name' | 'address' | 'createdBy'>, token: string, origin: string) {
  const message: Message = {
    subject: `Confirm that Bussola may send alarms to ${channel.address}`,
    heading: 'May Bussola send you alarms?',
    sentence: `${channel.createdBy} added this address as the channel "${channel.name}". Nothing is sent to it until you agree.`,
    rows: [
      ['Channel', channel.name],
      ['Address', channel.address]
    ],
    link: `${origin}/confirm/${token}`
  };
  return { subject: message.subject, text: plainText(message), html: mailHtml(message, 'Open the page to agree') };
}
