export {
  incidentMessage,
  passedMessage,
  plainText,
  unjudgedMessage,
  type IncidentFacts,
  type Message,
  type UnjudgedFacts
} from './message';
