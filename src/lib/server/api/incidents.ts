import { z } from 'zod';
import { severities } from '$lib/core/alarm';
import { closingSchema, outcomes, timelineKinds } from '$lib/core/incident';
import { Refusal } from '$lib/core/problem/problem';
import { instantFromText, isZone, range } from '$lib/core/time';
import { idSchema } from '$lib/core/forms/id';
import { acknowledge, handOver, unacknowledge } from '../incidents/acknowledge';
import { closeIncident, reopenIncident } from '../incidents/close';
import { addNote } from '../incidents/notes';
import { addPicture, pictureOf } from '../incidents/pictures';
import { unusualThen } from '../respond/unusual-then';
import { reviewOf } from '../respond/review';
import { timelineOf } from '../respond/timeline';
import { changesOfIncident, incidentById } from '../incidents/incidents';
import { incidentsIn } from '../incidents/span';
import { openIncidents, openIncidentsAfter } from '../incidents/open';
import { idParams, instant, operationsOf } from './operation';
import { noCursor, placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Incidents');

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
  clearAt: instant.nullable().describe('When its numbers were clear again; null while they raise it.'),
  outcome: z
    .object({ outcome: z.enum(outcomes), text: z.string(), at: instant, by: z.string() })
    .nullable()
    .describe('How it ended, as whoever closed it says.'),
  judgedAfterwards: z.boolean().describe('Found in history; nobody was notified.')
});
const state = z.enum(['clear', 'raised', 'indeterminate']);

/** Incidents that one answer lists. */
const mostIncidents = 500;

const noSuchIncident = () =>
  new Refusal('not-found', 'There is no such incident.', 'Its alarm may have been removed. See the list of incidents.');

export const incidentOperations = [
  operation('GET', '/incidents', {
    list: readList('incidents', { usual: mostIncidents, most: mostIncidents }),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists open incidents, the gravest first; or those of a range, newest first.',
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
    handle: async ({ server: { db }, query: { from, to }, page }) => {
      const [after = null] = placeOf(page, 1) ?? [];
      // One that was removed since has no place any more: an end of the list would be wrong.
      const isKnown = after === null || (idSchema.safeParse(after).success && (await incidentById(db, after)) !== null);
      if (!isKnown) throw noCursor();
      if (from !== undefined && to !== undefined) {
        const within = range(instantFromText(from), instantFromText(to));
        return { incidents: await incidentsIn(db, within, page.limit, after) };
      }
      return {
        incidents:
          after === null ? await openIncidents(db, page.limit) : await openIncidentsAfter(db, page.limit, after)
      };
    }
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
  operation('POST', '/incidents/{id}/close', {
    right: 'editor',
    summary:
      'Notes how an incident ended. One that is still raised is closed by it: nobody is notified of it until it is raised anew or becomes graver.',
    body: closingSchema,
    answer: incidentAnswer,
    handle: ({ server, params: { id }, body, author }) => closeIncident(server, id, body, author.displayName)
  }),
  operation('DELETE', '/incidents/{id}/close', {
    right: 'editor',
    summary: 'Opens an incident again that was closed while it was raised, as long as it is.',
    answer: incidentAnswer,
    handle: ({ server, params: { id }, author }) => reopenIncident(server, id, author.displayName)
  }),
  operation('POST', '/incidents/{id}/pictures', {
    right: 'editor',
    summary:
      'Stores a picture for notes, which show it as `![what is seen](picture:3)`. It is drawn anew, at most 1600 pixels wide or high.',
    body: z.strictObject({
      // Not checked letter by letter, which takes most of a second: what is no picture is refused as such.
      data: z
        .string()
        .max(8_000_000, { error: 'The file has more than 6 MB: send a smaller one.' })
        .describe('A PNG, JPEG, WebP or GIF, in base64.')
    }),
    mostBytes: 8_100_000,
    answer: z.object({ id: z.int(), width: z.int(), height: z.int() }),
    status: 201,
    handle: ({ server, params: { id }, body: { data }, author }) =>
      addPicture(server, id, Buffer.from(data, 'base64'), author.displayName)
  }),
  operation('GET', '/incidents/{id}/pictures/{picture}', {
    types: ['image/webp'],
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a picture of the notes of an incident, as WebP.',
    params: idParams.extend({ picture: z.coerce.number().pipe(idSchema) }),
    handle: async ({ server: { db }, params: { id, picture } }) => {
      const image = await pictureOf(db, id, picture);
      if (image === null)
        throw new Refusal(
          'not-found',
          'There is no such picture.',
          'It goes with its incident, which may be older than incidents are stored.'
        );
      return new Response(new Uint8Array(image), {
        headers: {
          'content-type': 'image/webp',
          'cache-control': 'private, max-age=604800, immutable',
          'x-content-type-options': 'nosniff'
        }
      });
    }
  }),
  operation('GET', '/incidents/{id}/unusual', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Lists metrics of the resource and its neighbours that were far from what they are at the same hours of the seven days before, the farthest first.',
    answer: z.object({
      unusual: z.array(
        z.object({
          metric: z.string(),
          title: z.string(),
          unit: z.string().describe('UCUM code.'),
          resource: z.string(),
          resourceId: z.int(),
          text: z.string().describe('How far from usual, in words.'),
          distance: z.number().describe('In robust standard deviations (scaled median absolute deviation).'),
          usual: z.number(),
          value: z.number().nullable().describe('Null of what was not measured then.'),
          values: z.array(z.number().nullable()).describe('In cells of five minutes, from two hours before.')
        })
      ),
      compared: z.int(),
      tooYoung: z.int().describe('Metrics with too little history to be compared.')
    }),
    handle: async ({ server, params: { id }, inTurn }) => {
      const incident = await incidentById(server.db, id);
      if (incident === null) throw noSuchIncident();
      return inTurn((reader) =>
        server.queryQueue.ask(reader, null, () => unusualThen(server, incident, server.clock.now()))
      );
    }
  }),
  operation('GET', '/incidents/{id}/timeline', {
    list: wholeList('timeline', ({ at, kind, text }: { at: number; kind: string; text: string }) => [at, kind, text]),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what happened before an incident and since: changes near it, states, messages, people, notes.',
    answer: z.object({
      timeline: z.array(
        z.object({
          at: instant,
          kind: z.enum(timelineKinds),
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
    types: ['text/markdown'],
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
  })
];
