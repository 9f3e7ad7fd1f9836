export { incidentMessage, plainText, type IncidentFacts, type Message } from './message';
