import { from, to, zone, type Examples } from './example';

const route = {
  name: 'Gates, by night',
  when: { severities: ['major', 'critical'], services: ['machines'] },
  steps: [
    { after: 0, notify: [{ kind: 'channel', channelId: 1 }] },
    { after: 900_000, notify: [{ kind: 'person', personId: 1, by: ['email'] }] }
  ],
  ...{ group: { by: 'related', wait: 30_000, atMostEvery: 300_000 }, zone }
};
const rota = {
  ...{ name: 'Harbour', zone },
  layers: [{ name: 'Weeks', people: [1, 2], days: 7, from: '2026-05-04', at: '09:00' }]
};
const file = { text: JSON.stringify({ kind: 'on-call', version: 1, channels: [], rotas: [], routes: [] }) };
const calendar = [
  ...[
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Corallo//Shifts//EN',
    'BEGIN:VEVENT',
    'UID:shift-1@corallo.example.test'
  ],
  ...['DTSTAMP:20260501T080000Z', 'DTSTART:20260511T090000Z', 'DTEND:20260512T090000Z', 'SUMMARY:Nerea Olmo'],
  ...['END:VEVENT', 'END:VCALENDAR', '']
].join('\r\n');

/** Who is notified, who has the watch, and people. */
export const peopleExamples: Examples = {
  'POST /channels': {
    body: { kind: 'webhook', name: 'Harbour desk', address: 'https://desk.corallo.example.test/incidents' }
  },
  'POST /channels/{id}/subscribers': { body: { kind: 'email', name: 'Ivo', address: 'ivo@corallo.example.test' } },
  'POST /channels/{id}/confirm': { body: { code: '482913' } },
  'POST /followers': { body: { channelId: 3, kinds: ['alarms', 'incidents'], isOn: true } },
  'PUT /followers/{id}': { body: { follower: { channelId: 3, kinds: [], isOn: true }, version: 1 } },
  'PUT /message-templates': { body: { templates: { subject: '{{severity}}: {{alarm}}' }, version: 1 } },
  'POST /message-templates/preview': { body: { templates: { subject: '{{severity}}: {{alarm}}' }, incidentId: 1 } },
  'POST /routes': { body: { route, place: 'list' } },
  'POST /routes/order': { body: { ids: [2, 1] } },
  'POST /routes/try': {
    body: { imagined: { severity: 'critical', service: 'machines', resource: 'gate-api-1' }, at: from }
  },
  'PUT /routes/{id}': { body: { route: { ...route, notifiesClear: false }, version: 1 } },
  'POST /on-call/plan': { body: file },
  'POST /on-call/apply': { body: file },
  'POST /rotas': { body: rota },
  'PUT /rotas/{id}': { body: { rota: { ...rota, name: 'Harbour and gates' }, version: 1 } },
  'POST /rotas/{id}/overrides': { body: { from, to, personId: 2, reason: 'At the dentist.' } },
  'POST /rotas/{id}/swaps': { body: { from, to, askedOf: 2 } },
  'POST /rotas/{id}/import': { body: { text: calendar, apply: false } },
  'POST /calendars': { body: { rotaId: null } },
  'POST /people': {
    body: { name: 'tomas', displayName: 'Tomás Vidal', mail: 'tomas@corallo.example.test', role: 'editor', teamIds: [] }
  },
  'PUT /people/{id}': { body: { role: 'editor', teamIds: [], lines: 'all', acts: null } },
  'POST /people/{id}/disable': { body: { successorId: null } },
  'PUT /me': {
    body: {
      ...{ displayName: 'Nerea Olmo', zone, dateLocale: 'en' },
      quiet: { hours: { weekdays: [6, 7], from: '22:00', to: '07:00' }, exceptFrom: 'critical' }
    }
  },
  'POST /me/password': { body: { password: 'corallo-demo', newPassword: 'a harbour of old bells' } },
  'POST /me/addresses': { body: { kind: 'email', address: 'nerea.private@example.test' } },
  'POST /me/addresses/{id}/confirm': { body: { code: '482913' } },
  'POST /me/devices': {
    body: {
      name: 'Phone of Nerea',
      subscription: {
        endpoint: 'https://push.example.test/device/1',
        keys: {
          p256dh: 'BCVxsr7N_eNgVRqvHtD0zTZsEc6-VV-JvLexhqUzORcxaOzi6-AYWXvTBHm4bjyPjs7Vd8pZGH6SRpkNtoIAiw4',
          auth: 'BTBZMqHH6r4Tts7J_aSIgg'
        }
      }
    }
  },
  'PUT /me/second-factor': {
    body: { password: 'corallo-demo', secret: 'JBSWY3DPEHPK3PXPJBSWY3DPEHPK3PXP', code: '282760' }
  },
  'POST /me/second-factor/remove': { body: { password: 'corallo-demo' } },
  'POST /me/recovery-codes': { body: { code: '282760' } },
  'POST /teams': { body: { name: 'Gates' } },
  'PUT /teams/{id}': { body: { name: 'Gates and displays', memberIds: [1, 2] } }
};
