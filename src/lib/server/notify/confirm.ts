import type { Message } from '$lib/core/notify';
import type { Instant } from '$lib/core/time';
import type { Channel } from './channels';
import type { NewMessage } from './outbox';

/** What is queued to ask whoever reads a channel: its link or code is made when it is sent, since it is a secret. */
export const confirmRequest = (channelId: number, createdAt: Instant): NewMessage => ({
  channelId,
  incidentId: null,
  alarmId: null,
  content: { kind: 'confirm' },
  priority: 0,
  createdAt
});

/**
 * The mail that asks the person behind an address whether they agree to receive alarms.
 *
 * @param origin Bussola's own address
 * @example linkMessage(channel, token, 'https://bussola.example.test').subject
 */
export const linkMessage = (
  channel: Pick<Channel, 'name' | 'address' | 'createdBy'>,
  token: string,
  origin: string
): Message => ({
  subject: `Confirm that Bussola may send alarms to ${channel.address}`,
  heading: 'May Bussola send you alarms?',
  sentence: `${channel.createdBy} added this address as the channel "${channel.name}". Nothing is sent to it until you agree.`,
  rows: [
    ['Channel', channel.name],
    ['Address', channel.address]
  ],
  link: `${origin}/confirm/${token}`,
  linkText: 'Open the page to agree'
});

/**
 * The message that asks whether somebody wants to subscribe to a topic.
 *
 * @param origin Bussola's own address
 * @example subscribeMessage('operations', channel, token, origin).subject // 'Subscribe to "operations" in Bussola?'
 */
export const subscribeMessage = (
  topic: string,
  { address, createdBy }: Pick<Channel, 'address' | 'createdBy'>,
  token: string,
  origin: string
): Message => ({
  subject: `Subscribe to "${topic}" in Bussola?`,
  heading: `Subscribe to "${topic}"?`,
  sentence: `${createdBy} entered ${address} as a subscriber. Nothing is sent to it until you agree, and you can leave at any time by the link in each message.`,
  rows: [['Topic', topic]],
  link: `${origin}/confirm/${token}`,
  linkText: 'Open the page to agree'
});

/**
 * The mail that invites a person.
 *
 * @param origin Bussola's own address
 * @example joinMessage({ displayName: 'Mira Voss' }, 'Kaja Tamm', token, 'https://bussola.example.test').subject // 'Kaja Tamm invites you to Bussola'
 */
export const joinMessage = (
  { displayName, name, role }: { readonly displayName: string; readonly name: string; readonly role: string },
  by: string,
  token: string,
  origin: string
): Message => ({
  subject: `${by} invites you to Bussola`,
  heading: `${by} invites you to Bussola`,
  sentence: `${displayName}, open the page to choose a password. The link is good for seven days and once.`,
  rows: [
    ['Sign-in name', name],
    ['Role', role]
  ],
  link: `${origin}/join/${token}`,
  linkText: 'Join'
});

/** The mail by which a person sets a new password. @example resetMessage('nerea', token, origin).link */
export const resetMessage = (name: string, token: string, origin: string): Message => ({
  subject: 'Set a new password for Bussola',
  heading: 'Set a new password',
  sentence:
    'Somebody, maybe you, asked for a new password. The link is good for an hour and once. If it was not you, do nothing: the old password stays.',
  rows: [['Sign-in name', name]],
  link: `${origin}/reset/${token}`,
  linkText: 'Set a new password'
});

/**
 * The message that asks whoever reads a channel without links to enter a code in Bussola.
 *
 * @example codeMessage(channel, '204117', 'https://bussola.example.test').subject // '204117 confirms the channel "Bridge" in Bussola'
 */
export const codeMessage = (
  channel: Pick<Channel, 'name' | 'createdBy'>,
  code: string,
  origin: string,
  path = '/channels'
): Message => ({
  subject: `${code} confirms the channel "${channel.name}" in Bussola`,
  heading: 'May Bussola send alarms here?',
  sentence: `${channel.createdBy} added the channel "${channel.name}". To agree, enter the code ${code} in Bussola within half an hour.`,
  rows: [['Code', code]],
  link: `${origin}${path}`,
  linkText: 'Open the channels in Bussola'
});
