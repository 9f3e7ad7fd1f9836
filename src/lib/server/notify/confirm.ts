import { plainText, type Message } from '$lib/core/notify';
import type { Channel } from './channels';
import { mailHtml } from './mail';

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
