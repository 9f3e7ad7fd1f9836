import { z } from 'zod';
import { eventRuleSchema, type OutsideEvent } from '$lib/core/events';
import { idSchema } from '$lib/core/forms/id';
import { problemsOf } from '$lib/core/forms/problems';
import { Refusal } from '$lib/core/problem/problem';
import { after, before, day, duration, instantFromText, range } from '$lib/core/time';
import { allEventRules, type StoredEventRule } from '../events/event-rules';
import { addEventRule, removeEventRule, saveEventRule } from '../events/manage-event-rules';
import { listEvents } from '../events/outside-events';
import { attributesIn, isInHeaders, keepEvents } from '../events/receive-events';
import { triedDays, tryOnPast } from '../events/try-event-rule';
import { admitted } from '../intake/receive/admit';
import { instant, operationsOf } from './operation';
import { placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Events');

const eventAnswer = z.object({
  id: z.int(),
  at: instant,
  type: z.string(),
  source: z.string(),
  account: z.string(),
  resource: z.string().describe('What it is about; empty for nothing.'),
  resourceId: z.int().nullable(),
  service: z.string(),
  text: z.string(),
  attributes: z.record(z.string(), z.string())
});
const eventOf = ({ id, at, type, source, account, resource, resourceId, service, text, attributes }: OutsideEvent) => ({
  ...{ id, at, type, source, account, resource, resourceId, service, text },
  attributes: { ...attributes }
});
const ruleAnswer = z.object({
  id: z.int(),
  rule: eventRuleSchema,
  version: z.int(),
  changedAt: instant,
  changedBy: z.string()
});
const ruleOf = ({ id, rule, version, changedAt, changedBy }: StoredEventRule) => ({
  ...{ id, rule, version, changedAt, changedBy }
});

/** Media types in which events come whole in the body. */
const structured = ['application/cloudevents+json', 'application/cloudevents-batch+json', 'application/json'];

export const eventOperations = [
  operation('POST', '/receive/events', {
    isAct: false,
    right: 'anybody',
    scope: 'events',
    isRaw: true,
    summary: 'Takes events by CloudEvents 1.0 over HTTP: structured, in binary mode, or several in a batch.',
    answer: z.object({
      accepted: z.int(),
      known: z.int().describe('Those that were stored before: the same id of the same source.'),
      rejected: z.int(),
      faults: z.array(z.string())
    }),
    handle: async ({ server, request }) => {
      const inHeaders = isInHeaders(request.headers);
      const { key, body, isGzip, mediaType } = await admitted(server, request, 'events', inHeaders ? null : structured);
      const received = await server.parsers.events({
        ...{ body, isGzip, now: server.clock.now() },
        inHeaders: inHeaders ? { mediaType, headers: attributesIn(request.headers) } : null
      });
      const taken = await keepEvents(server, key, received);
      return Response.json(taken, { status: taken.accepted + taken.known === 0 && taken.rejected > 0 ? 422 : 200 });
    }
  }),
  operation('GET', '/events', {
    list: readList('events', { usual: 100, most: 1000, place: ({ at, id }: { at: number; id: number }) => [at, id] }),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists events of providers and programs, newest first. Without a range, those of the last day.',
    query: z
      .strictObject({
        from: z.iso.datetime({ offset: true }).optional(),
        to: z.iso.datetime({ offset: true }).optional(),
        text: z.string().max(200).optional(),
        type: z.string().max(200).optional(),
        account: z.string().max(200).optional(),
        resourceId: z.coerce.number().pipe(idSchema).optional()
      })
      .refine(({ from, to }) => (from === undefined) === (to === undefined), {
        error: 'Give both ends of a range, or none.',
        path: ['to']
      }),
    answer: z.object({ events: z.array(eventAnswer) }),
    handle: async ({ server: { db, clock }, query: { from, to, text, type, account, resourceId }, page }) => {
      const now = clock.now();
      const within =
        from === undefined || to === undefined
          ? range(before(now, day), after(now, duration(1)))
          : range(instantFromText(from), instantFromText(to));
      const filter = {
        text: text ?? null,
        type: type ?? null,
        account: account ?? null,
        resourceId: resourceId ?? null
      };
      return {
        events: (await listEvents(db, { range: within, ...filter }, page.limit, placeOf(page, 2))).map(eventOf)
      };
    }
  }),
  operation('GET', '/event-rules', {
    list: wholeList('rules'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the rules by which events raise incidents.',
    answer: z.object({ rules: z.array(ruleAnswer) }),
    handle: async ({ server: { db } }) => ({ rules: (await allEventRules(db)).map(ruleOf) })
  }),
  operation('POST', '/event-rules', {
    right: 'editor',
    summary: 'Adds a rule for events that arrive from now on.',
    body: eventRuleSchema,
    answer: ruleAnswer,
    status: 201,
    handle: async ({ server, body, author }) => ruleOf(await addEventRule(server, body, author.displayName))
  }),
  operation('PUT', '/event-rules/{id}', {
    right: 'editor',
    summary: 'Changes an event rule, unless somebody else has meanwhile. What it has raised stays raised.',
    body: z.strictObject({ rule: eventRuleSchema, version: z.int().min(1) }),
    answer: ruleAnswer,
    handle: async ({ server, params: { id }, body: { rule, version }, author }) =>
      ruleOf(await saveEventRule(server, id, version, rule, author.displayName))
  }),
  operation('DELETE', '/event-rules/{id}', {
    right: 'editor',
    summary: 'Removes an event rule; what it has raised ends.',
    handle: ({ server, params: { id } }) => removeEventRule(server, id)
  }),
  operation('POST', '/event-rules/try', {
    right: 'viewer',
    scope: 'read',
    summary: `Tries an event rule on the events of the last ${triedDays} days, and changes nothing.`,
    // It need not have a name yet.
    body: z.looseObject({ name: z.string().default('') }),
    answer: z.object({
      tried: z.int().describe('Events that were looked at.'),
      matches: z.int().describe('How many of them it would have been raised by.'),
      count: z.int().describe('Incidents that it would have raised.'),
      incidents: z.array(
        z.object({
          thing: z.string(),
          openedAt: instant,
          closedAt: instant.nullable().describe('Null while it would be raised still.'),
          events: z.int(),
          text: z.string()
        })
      ),
      events: z.array(eventAnswer)
    }),
    handle: async ({ server, body, inTurn }) => {
      const read = eventRuleSchema.safeParse({ ...body, name: body.name.trim() === '' ? 'new' : body.name });
      if (!read.success) {
        const [first] = problemsOf(read.error);
        throw new Refusal('invalid', first?.message ?? '', 'Change it, then try again.', {
          path: first === undefined ? [] : first.path.split('.')
        });
      }
      const { incidents, events, ...counts } = await inTurn(() => tryOnPast(server, read.data));
      return {
        ...counts,
        incidents: incidents.map(({ thing, openedAt, closedAt, events: count, event }) => ({
          ...{ thing, openedAt, closedAt, events: count, text: event.text }
        })),
        events: events.map(eventOf)
      };
    }
  })
];
