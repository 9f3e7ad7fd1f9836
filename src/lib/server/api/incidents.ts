import { z } from 'zod';
import { severities } from '$lib/core/alarm';
import { channelKinds, newChannelSchema } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import { instantFromText, isZone, range } from '$lib/core/time';
import { addChannel, confirmWithCode, sendTest } from '../notify/manage-channels';
import { removeChannel } from '../routing/remove-channel';
import { idSchema } from '$lib/core/forms/id';
import { acknowledge, handOver, unacknowledge } from '../incidents/acknowledge';
import { addNote } from '../incidents/notes';
import { reviewOf } from '../respond/review';
import { timelineOf } from '../respond/timeline';
import { changesOfIncident, incidentById, incidentsIn, openIncidents } from '../incidents/incidents';
import { allChannels } from '../notify/channels';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Alarms, incidents and channels');

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
  acknowledgedAt: instant.nullable().describe('When somebody noted that they look after it.'),
  acknowledgedBy: z.string().nullable(),
  judgedAfterwards: z.boolean().describe('Found in history; nobody was notified.')
});
const channelAnswer = z.object({
  id: z.int(),
  kind: z.enum(channelKinds),
  name: z.string(),
  address: z.string().describe('As people see it: of a chat hook, without what is secret.'),
  confirmSentAt: instant.nullable(),
  confirmedAt: instant.nullable(),
  createdAt: instant,
  createdBy: z.string()
});
const state = z.enum(['clear', 'raised', 'indeterminate']);

/** Incidents that one answer lists. */
const mostIncidents = 500;

const noSuchIncident = () =>
  new Refusal('not-found', 'There is no such incident.', 'Its alarm may have been removed. See the list of incidents.');

export const incidentOperations = [
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
  operation('POST', '/incidents/{id}/acknowledge', {
    right: 'editor',
    summary: 'Notes that the caller looks after an open incident.',
    answer: incidentAnswer,
    handle: ({ server, params: { id }, author }) => acknowledge(server, id, author.displayName)
  }),
  operation('DELETE', '/incidents/{id}/acknowledge', {
    right: 'editor',
    summary: 'Takes an acknowledgement back.',
    answer: incidentAnswer,
    handle: ({ server, params: { id }, author }) => unacknowledge(server, id, author.displayName)
  }),
  operation('POST', '/incidents/{id}/notes', {
    right: 'editor',
    summary: 'Writes a note about an incident.',
    body: z.strictObject({
      text: z.string().trim().min(1, { error: 'Write something.' }).max(10_000).describe('CommonMark.')
    }),
    answer: z.object({ id: z.int(), at: instant, by: z.string(), text: z.string() }),
    status: 201,
    handle: ({ server, params: { id }, body: { text }, author }) => addNote(server, id, text, author.displayName)
  }),
  operation('POST', '/incidents/{id}/hand-over', {
    right: 'editor',
    summary: 'Gives an open incident to somebody, who looks after it from now on.',
    body: z.strictObject({ personId: idSchema }),
    answer: incidentAnswer,
    handle: ({ server, params: { id }, body: { personId }, author }) =>
      handOver(server, id, personId, author.displayName)
  }),
  operation('GET', '/incidents/{id}/timeline', {
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what happened before an incident and since: changes near it, states, messages, people, notes.',
    answer: z.object({
      timeline: z.array(
        z.object({
          at: instant,
          kind: z.enum(['mark', 'event', 'incident', 'state', 'message', 'person', 'note', 'held']),
          text: z.string(),
          aside: z.string(),
          severity: z.enum(severities).nullable(),
          isFault: z.boolean()
        })
      )
    }),
    handle: async ({ server: { db }, params: { id } }) => {
      const incident = await incidentById(db, id);
      if (incident === null) throw noSuchIncident();
      return { timeline: await timelineOf(db, incident) };
    }
  }),
  operation('GET', '/incidents/{id}/review', {
    isAct: true,
    right: 'viewer',
    scope: 'read',
    summary: 'Writes a summary of an incident for a review, as CommonMark.',
    query: z.strictObject({ zone: z.string().max(60).refine(isZone, { error: 'Give a time zone.' }).default('UTC') }),
    handle: async ({ server, params: { id }, query: { zone } }) => {
      const incident = await incidentById(server.db, id);
      if (incident === null) throw noSuchIncident();
      return new Response(await reviewOf(server, incident, zone), {
        headers: {
          'content-type': 'text/markdown; charset=utf-8',
          'content-disposition': `attachment; filename="incident-${id}.md"`
        }
      });
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
    summary: 'Adds a channel and sends the link or the code that confirms it.',
    body: newChannelSchema,
    answer: channelAnswer.extend({
      signingSecret: z.string().nullable().describe('Of a webhook: what verifies its signatures, shown this once.')
    }),
    status: 201,
    handle: ({ server, body, author }) => addChannel(server, body, author)
  }),
  operation('POST', '/channels/{id}/confirm', {
    right: 'editor',
    summary: 'Confirms a channel by the code that was sent to it. E-mail channels are confirmed by their link.',
    body: z.strictObject({ code: z.string().max(20) }),
    answer: channelAnswer,
    handle: ({ server, params: { id }, body }) => confirmWithCode(server, id, body.code)
  }),
  operation('POST', '/channels/{id}/test', {
    right: 'editor',
    summary: 'Sends a test to a channel that is confirmed.',
    answer: z.object({ messageId: z.int() }),
    status: 202,
    handle: async ({ server, params: { id }, author }) => ({ messageId: await sendTest(server, id, author) })
  }),
  operation('DELETE', '/channels/{id}', {
    right: 'editor',
    summary: 'Removes a channel that no route notifies. Its messages stay in the history.',
    handle: ({ server, params: { id } }) => removeChannel(server, id)
  })
];
