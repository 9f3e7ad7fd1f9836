import { z } from 'zod';
import type { StoredForm } from '../forms/stored';

/** Kinds of channels. */
export const channelKinds = ['email', 'chat-hook', 'webhook', 'text-message', 'push', 'topic'] as const;
export type ChannelKind = (typeof channelKinds)[number];

/** What kinds of channels are called. */
export const channelKindWords: Readonly<Record<ChannelKind, string>> = {
  email: 'e-mail',
  'chat-hook': 'chat hook',
  webhook: 'signed webhook',
  'text-message': 'text message',
  push: 'push notification',
  topic: 'topic'
};

/** What they are called where several stand in a sentence: "by chat". */
export const shortKindWords: Readonly<Record<ChannelKind, string>> = {
  ...channelKindWords,
  'chat-hook': 'chat',
  webhook: 'webhook'
};

/** Kinds that messages are sent to: a topic has subscribers of these. */
export type SentKind = Exclude<ChannelKind, 'topic'>;
export const sentKinds: readonly SentKind[] = ['email', 'chat-hook', 'webhook', 'text-message', 'push'];
/** Kinds that subscribe to a topic. */
export const subscriberKinds = ['email', 'text-message', 'chat-hook', 'webhook'] as const;

/** What of a channel people may see besides its address. */
export const channelSettingsSchema = z.strictObject({
  /** Of a webhook: whether the attributes of an event stand in its body or in the headers. */
  mode: z.enum(['structured', 'binary']).optional(),
  /** Of a chat hook: the JSON that the room takes, with names in double braces. */
  template: z.string().max(4000).optional()
});
export type ChannelSettings = z.infer<typeof channelSettingsSchema>;

/** How settings of channels are stored. */
export const channelSettingsForm: StoredForm<ChannelSettings> = {
  what: 'The channel',
  version: 1,
  schema: channelSettingsSchema,
  upgrades: []
};

const name = z.string().trim().min(1, { error: 'Name it by who reads it, such as "Machines on call".' }).max(80);

/** An address that messages are posted to. */
const hookUrl = z
  .url({ protocol: /^https?$/, error: 'Enter an address that starts with http:// or https://.' })
  .max(600)
  .refine((text) => !URL.canParse(text) || (new URL(text).username === '' && new URL(text).password === ''), {
    error: 'Leave the name and the password out of the address: they would be shown.'
  });

/** Names that a template may use, each with what it stands for. */
export const templateNames: Readonly<Record<string, string>> = {
  short: 'the message in one line, with the link',
  summary: 'what, where, how bad, since when',
  title: 'the name of the alarm',
  text: 'what happened, in a sentence',
  link: 'the address of the incident',
  acknowledge: 'the address at which it is acknowledged; empty where nothing is to be acknowledged',
  severity: 'critical, major, minor or warning; empty for what has none',
  state: 'raised, cleared or passed; empty for what is no incident',
  subject: 'the resource',
  account: 'its account',
  region: 'its region',
  openedAt: 'since when, as RFC 3339'
};

const addressed = [
  z.object({
    kind: z.literal('email').default('email'),
    name,
    address: z.email({ error: 'Give an e-mail address.' }).max(200)
  }),
  z.object({
    kind: z.literal('text-message'),
    name,
    address: z
      .string()
      .transform((text) => text.replace(/[\s().-]/g, ''))
      .pipe(
        z.string().regex(/^\+[1-9]\d{5,14}$/, { error: 'Give the number with its country, such as +1 202 555 0143.' })
      )
  }),
  z.object({
    kind: z.literal('chat-hook'),
    name,
    address: hookUrl,
    /** Empty for `{ "text": … }`. */
    template: z.string().max(4000).default('')
  }),
  z.object({
    kind: z.literal('webhook'),
    name,
    address: hookUrl,
    mode: z.enum(['structured', 'binary']).default('structured')
  })
] as const;

/** A channel with an address, such as whoever subscribes to a topic. */
export const addressedChannelSchema = z.discriminatedUnion('kind', addressed);
export type NewChannel = z.infer<typeof addressedChannelSchema>;

/** What the form that adds a channel takes. */
export const newChannelSchema = z.discriminatedUnion('kind', [
  ...addressed,
  z.object({ kind: z.literal('topic'), name })
]);
export type NewTopic = Extract<z.infer<typeof newChannelSchema>, { kind: 'topic' }>;

/** What a browser gives that shows notifications, as the Push API of the W3C describes it. */
export const pushSubscriptionSchema = z.object({
  endpoint: z.url({ protocol: /^https?$/ }).max(1000),
  keys: z.object({
    p256dh: z.string().regex(/^[\w-]{80,100}={0,2}$/),
    auth: z.string().regex(/^[\w-]{20,30}={0,2}$/)
  })
});
export type PushSubscription = z.infer<typeof pushSubscriptionSchema>;
