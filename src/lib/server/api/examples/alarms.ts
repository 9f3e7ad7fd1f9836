import { alarm, from, signal, to, zone, type Examples } from './example';

const file = {
  text: JSON.stringify({ kind: 'alarms', version: 2, alarms: [{ ...alarm, name: 'Gates, from a file' }] })
};
const eventRule = {
  name: 'A release of the gates failed',
  when: { types: ['com.corallo.release.failed'], resources: ['gate-*'] },
  severity: 'major',
  clears: { by: 'event', when: { types: ['com.corallo.release.finished'] } }
};
const check = {
  name: 'Booking page',
  target: { kind: 'http', url: 'https://www.corallo.example.test/booking', contains: 'Book a berth' },
  ...{ every: 60, within: 5, retries: 1 }
};
const promise = {
  name: 'Gates have room',
  of: { kind: 'time', signal: { ...signal, step: 'PT5M' }, is: 'below', limit: 90 },
  ...{ targetPercent: 99, period: { kind: 'rolling', days: 28 } }
};
const response = {
  ...{ name: 'Restart a gate that hangs', alarmId: 1, from: 'critical', heldMinutes: 5, action: { kind: 'restart' } },
  limits: {
    ...{ mostPerHour: 2, restMinutes: 15, group: null, notIn: null, duringMaintenance: false, failuresToStop: 2 }
  }
};
const maskRule = {
  ...{ does: 'mask', name: 'Addresses of guests', account: null },
  masked: { kind: 'mail-address' }
};

/** Alarms and all that is judged, incidents and what is done about them. */
export const alarmExamples: Examples = {
  'POST /alarms': { body: alarm },
  'PUT /alarms/{id}': { body: { ...alarm, owner: 'Gate team' } },
  'POST /alarms/change': { body: { ids: [1, 2], change: { owner: 'Gate team' } } },
  'POST /alarms/remove': { body: { ids: [1, 2] } },
  'POST /alarms/undo': { body: { changed: [{ id: 1, version: 1 }] } },
  'POST /alarms/plan': { body: file },
  'POST /alarms/apply': { body: file },
  'POST /bands': { body: { signal, from, to, step: 60_000 } },
  'POST /rehearse': { body: { alarm, days: 7, zone } },
  'POST /preflight': { body: { alarm, days: 7 } },
  'POST /incidents/{id}/notes': { body: { text: 'The second gate hangs as well.' } },
  'POST /incidents/{id}/hand-over': { body: { personId: 2 } },
  'POST /incidents/{id}/close': { body: { outcome: 'fixed', text: 'Restarted.' } },
  'POST /incidents/{id}/pictures': {
    body: {
      data: 'iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAFklEQVR4nGP8z8DAwMDAxMDAwMDAAAANHQEDasKb6QAAAABJRU5ErkJggg=='
    }
  },
  'POST /event-rules': { body: eventRule },
  'PUT /event-rules/{id}': { body: { rule: { ...eventRule, severity: 'critical' }, version: 1 } },
  'POST /event-rules/try': { body: eventRule },
  'POST /checks': { body: check },
  'PUT /checks/{id}': { body: { check: { ...check, retries: 2 }, version: 1 } },
  'POST /checks/try': { body: check },
  'POST /objectives': { body: promise },
  'PUT /objectives/{id}': { body: { objective: { ...promise, targetPercent: 99.5 }, version: 1 } },
  'POST /objectives/try': { body: promise },
  'POST /responses': { body: response },
  'PUT /responses/{id}': { body: { response: { ...response, heldMinutes: 10 }, version: 1 } },
  'POST /resources/{id}/foretell': { body: { action: { kind: 'restart' } } },
  'POST /resources/{id}/acts': { body: { action: { kind: 'restart' } } },
  'POST /agreements/plan': { body: { text: JSON.stringify({ kind: 'agreements', version: 1, promises: [] }) } },
  'POST /agreements/apply': { body: { text: JSON.stringify({ kind: 'agreements', version: 1, promises: [] }) } },
  'POST /lines/pattern': { body: { from, to, search: 'severity >= warning', pattern: { kind: 'pairs' } } },
  'GET /lines/counts': { query: { from, to, by: 'severity' } },
  'POST /line-rules': { body: maskRule },
  'POST /line-rules/try': { body: maskRule },
  'POST /shelvings': {
    body: { kind: 'maintenance', reason: 'New gates', scope: { resources: ['gate-api-1'] }, from, to, zone }
  }
};
