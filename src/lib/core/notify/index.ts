// What a message says
export {
  contentForm,
  holdsSecret,
  messageContentSchema,
  messageOf,
  mostNamed,
  type MessageContent,
  type SecretKind
} from './content';
export { gravity, groupedMessage, type GroupedFacts } from './grouped';
// In words
export {
  incidentMessage,
  passedMessage,
  plainText,
  shortText,
  testMessage,
  unjudgedMessage,
  type GroupedIncident,
  type IncidentFacts,
  type Message,
  type UnjudgedFacts,
  type Writing
} from './message';
// In a workspace's own words
export {
  inOwnWords,
  messageTemplatesForm,
  messageTemplatesSchema,
  templateValues,
  wordNames,
  wordsProblem,
  type MessageTemplates
} from './template';
// Where it is sent
export {
  addressedChannelSchema,
  channelKindWords,
  channelKinds,
  channelSettingsForm,
  channelSettingsSchema,
  newChannelSchema,
  pushSubscriptionSchema,
  sentKinds,
  shortKindWords,
  subscriberKinds,
  templateNames,
  type ChannelKind,
  type ChannelSettings,
  type NewChannel,
  type NewTopic,
  type PushSubscription,
  type SentKind
} from './channel';
