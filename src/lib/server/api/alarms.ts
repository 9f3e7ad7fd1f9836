import { z } from 'zod';
import { alarmSchema, severities, type AlarmDefinition } from '$lib/core/alarm';
import { channelFormSchema } from '$lib/core/forms/forms';
import { Refusal } from '$lib/core/problem/problem';
import { instantFromText, range } from '$lib/core/time';
import { alarmById, allAlarms, countStates, type Alarm } from '../alarms/alarms';
import { addChannel, removeChannel } from '../alarms/manage-channels';
import { noSuchAlarm, removeAlarm, saveAlarm } from '../alarms/save-alarm';
import { changesOfIncident, incidentById, incidentsIn, openIncidents } from '../incidents/incidents';
import { allChannels } from '../notify/channels';
import { asStored, instant, operationsOf } from './operation';

const operation = operationsOf('Alarms, incidents and channels');

const alarmAnswer = z.object({
  id: z.int(),
  definition: asStored<AlarmDefinition>(alarmSchema),
  createdAt: instant,
  createdBy: z.string(),
  changedAt: instant,
  changedBy: z.string(),
  lastError: z
    .object({ message: z.string(), remedy: z.string(), since: instant, notifiedAt: instant.nullable() })
    .nullable()
    .describe('Why the alarm cannot be evaluated at present.'),
  states: z.object({ clear: z.int(), raised: z.int(), indeterminate: z.int() }).describe('Series in each state.')
});
const incidentAnswer = z.object({
  id: z.int(),
  alarmId: z.int().nullable().describe('Null when the alarm has been removed since.'),
  alarm: z.string(),
  subject: z.string(),
  labels: z.record(z.string(), z.string()),
  account: z.string(),
  region: z.string(),
  service: z.string(),
  resource: z.string(),
  metric: z.string().nullable(),
  unit: z.string().nullable().describe('UCUM code.'),
  severity: z.enum(severities),
  openedAt: instant,
  closedAt: instant.nullable(),
  peak: z.number().nullable(),
  judgedAfterwards: z.boolean().describe('Found in history; nobody was notified.')
});
const channelAnswer = z.object({
  id: z.int(),
  kind: z.literal('email'),
  name: z.string(),
  address: z.string(),
  confirmSentAt: instant.nullable(),
  confirmedAt: instant.nullable(),
  createdAt: instant,
  createdBy: z.string()
});
const state = z.enum(['clear', 'raised', 'indeterminate']);

/** Incidents that one answer lists. */
const mostIncidents = 500;

type Counts = Awaited<ReturnType<typeof countStates>>;
function withStates(alarm: Alarm, counts: Counts) {
  const count = (of: z.infer<typeof state>) =>
    counts.find((one) => one.alarmId === alarm.id && one.state === of)?.count ?? 0;
  return {
    ...alarm,
    states: { clear: count('clear'), raised: count('raised'), indeterminate: count('indeterminate') }
  };
}

const noSuchIncident = () =>
  new Refusal('not-found', 'There is no such incident.', 'Its alarm may have been removed. See the list of incidents.');

export const alarmOperations = [
  operation('GET', '/alarms', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists alarms with the number of series in each state.',
    answer: z.object({ alarms: z.array(alarmAnswer) }),
    handle: async ({ server: { db } }) => {
      const [alarms, counts] = await Promise.all([allAlarms(db), countStates(db)]);
      return { alarms: alarms.map((alarm) => withStates(alarm, counts)) };
    }
  }),
  operation('POST', '/alarms', {
    right: 'editor',
    summary: 'Makes an alarm. It is evaluated from now on.',
    body: alarmSchema,
    answer: alarmAnswer,
    status: 201,
    handle: async ({ server, body, author }) => withStates(await saveAlarm(server, null, body, author.displayName), [])
  }),
  operation('GET', '/alarms/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads an alarm.',
    answer: alarmAnswer,
    handle: async ({ server: { db }, params: { id } }) => {
      const [alarm, counts] = await Promise.all([alarmById(db, id), countStates(db)]);
      if (alarm === null) throw noSuchAlarm();
      return withStates(alarm, counts);
    }
  }),
  operation('PUT', '/alarms/{id}', {
    right: 'editor',
    summary: 'Replaces an alarm. Its series are evaluated again.',
    body: alarmSchema,
    answer: alarmAnswer,
    handle: async ({ server, params: { id }, body, author }) =>
      withStates(await saveAlarm(server, id, body, author.displayName), await countStates(server.db))
  }),
  operation('DELETE', '/alarms/{id}', {
    right: 'editor',
    summary: 'Removes an alarm. Its incidents stay in the history.',
    handle: ({ server, params: { id } }) => removeAlarm(server, id)
  }),
  operation('GET', '/incidents', {
    right: 'viewer',
    scope: 'read',
    summary: `Lists open incidents, the gravest first; or those of a range, newest first: at most ${mostIncidents}.`,
    query: z
      .strictObject({
        from: z.iso.datetime({ offset: true }).optional(),
        to: z.iso.datetime({ offset: true }).optional()
      })
      .refine(({ from, to }) => (from === undefined) === (to === undefined), {
        error: 'Give both ends of a range, or none.',
        path: ['to']
      }),
    answer: z.object({ incidents: z.array(incidentAnswer) }),
    handle: async ({ server: { db }, query: { from, to } }) => ({
      incidents:
        from === undefined || to === undefined
          ? await openIncidents(db, mostIncidents)
          : await incidentsIn(db, range(instantFromText(from), instantFromText(to)), mostIncidents)
    })
  }),
  operation('GET', '/incidents/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads an incident with the numbers that each change of state was decided on.',
    answer: incidentAnswer.extend({
      changes: z.array(
        z.object({
          at: instant,
          from: state,
          to: state,
          evidence: z.looseObject({ start: instant, step: z.int(), values: z.array(z.number().nullable()) })
        })
      )
    }),
    handle: async ({ server: { db }, params: { id } }) => {
      const [incident, changes] = await Promise.all([incidentById(db, id), changesOfIncident(db, id)]);
      if (incident === null) throw noSuchIncident();
      return {
        ...incident,
        changes: changes.map(({ evidence, ...change }) => ({
          ...change,
          evidence: { ...evidence, start: evidence.start as never }
        }))
      };
    }
  }),
  operation('GET', '/channels', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists channels and whether each is confirmed.',
    answer: z.object({ channels: z.array(channelAnswer) }),
    handle: async ({ server: { db } }) => ({ channels: await allChannels(db) })
  }),
  operation('POST', '/channels', {
    right: 'editor',
    summary: 'Adds an e-mail channel and sends the link that confirms it.',
    body: channelFormSchema,
    answer: channelAnswer,
    status: 201,
    handle: ({ server, body, author }) => addChannel(server, body, author)
  }),
  operation('DELETE', '/channels/{id}', {
    right: 'editor',
    summary: 'Removes a channel that no alarm notifies. Its messages stay in the history.',
    handle: ({ server, params: { id } }) => removeChannel(server, id)
  })
];
