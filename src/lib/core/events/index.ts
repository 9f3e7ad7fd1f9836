export {
  longestAttribute,
  longestSource,
  longestText,
  longestType,
  mostAttributes,
  thingOf,
  type OutsideEvent
} from './event';
export {
  eventConditionSchema,
  eventRuleForm,
  eventRuleSchema,
  eventWords,
  isAmong,
  ruleSentence,
  type EventCondition,
  type EventRule
} from './event-rule';
export {
  clearsAt,
  effectOf,
  EventTrial,
  raisedAfter,
  tryEventRule,
  type EventEffect,
  type RaisedByEvents,
  type TriedByEvents
} from './raise';
export { eventIds, eventOrigins, type EventNames, type EventOrigin, type ListedEvent } from './listed';
export { fromHeaders, readCloudEvents, type ArrivedEvent, type ArrivedEvents } from './cloud-events';
