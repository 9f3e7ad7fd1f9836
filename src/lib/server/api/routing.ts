import { z } from 'zod';
import { routeSchema } from '$lib/core/notify/route';
import { instantFromText } from '$lib/core/time';
import { addRoute, removeRoute, reorderRoutes, saveRoute } from '../respond/manage-routes';
import { allRoutes, type StoredRoute } from '../routing/routes';
import { imaginedSchema, tryIncident } from '../respond/try-incident';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';
import { idSchema } from '$lib/core/forms/id';

const operation = operationsOf('Routes and rotas');

const routeAnswer = z.object({
  id: z.int(),
  place: z.enum(['list', 'last', 'named']).describe('In the list, its last one, or for alarms that name it.'),
  version: z.int(),
  route: routeSchema,
  changedAt: instant,
  changedBy: z.string()
});
const answerOf = ({ place, isLast, ...rest }: StoredRoute) => ({
  ...rest,
  place: isLast ? ('last' as const) : place === null ? ('named' as const) : ('list' as const)
});
const time = z.iso.datetime({ offset: true });

export const routingOperations = [
  operation('GET', '/routes', {
    list: wholeList('routes'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists routes in the order in which incidents are tried against them; then those that only alarms name.',
    answer: z.object({ routes: z.array(routeAnswer) }),
    handle: async ({ server: { db } }) => ({ routes: (await allRoutes(db)).map(answerOf) })
  }),
  operation('POST', '/routes', {
    right: 'editor',
    summary: 'Adds a route: at the end of the list, as the last one of all, or for alarms that name it.',
    body: z.strictObject({ route: routeSchema, place: z.enum(['list', 'last', 'named']).default('list') }),
    answer: routeAnswer,
    status: 201,
    handle: async ({ server, body: { route, place }, author }) =>
      answerOf(await addRoute(server, route, place, author.displayName))
  }),
  operation('POST', '/routes/order', {
    right: 'editor',
    summary: 'Puts the routes of the list in an order: all of them but the last one, by their ids.',
    body: z.strictObject({ ids: z.array(idSchema).max(200) }),
    answer: z.object({ routes: z.array(routeAnswer) }),
    handle: async ({ server, body: { ids } }) => ({ routes: (await reorderRoutes(server, ids)).map(answerOf) })
  }),
  operation('POST', '/routes/try', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Says which route would take an incident at a time, what it lacked for those above, and who would be notified when.',
    body: z
      .strictObject({ incidentId: idSchema.optional(), imagined: imaginedSchema.optional(), at: time })
      .refine(({ incidentId, imagined }) => (incidentId === undefined) !== (imagined === undefined), {
        error: 'Give an incident, or imagine one.',
        path: ['incidentId']
      }),
    answer: z.object({
      route: z.object({ id: z.int(), name: z.string(), isNamed: z.boolean() }).nullable(),
      lacked: z.array(
        z.object({
          id: z.int(),
          name: z.string(),
          parts: z.array(z.enum(['severity', 'service', 'account', 'group', 'label', 'time']))
        })
      ),
      notified: z.array(
        z.object({
          at: instant,
          why: z.enum(['news', 'step', 'repeat', 'digest']),
          who: z.string(),
          kind: z.enum(['rota', 'person', 'channel']),
          person: z.string().nullable().describe('Who that is then; null for channels, and when nobody is on call.'),
          isReached: z.boolean().describe('Whether anything confirmed reaches them at once.'),
          quietUntil: instant.nullable().describe('Until when they are not disturbed, by their quiet hours.')
        })
      )
    }),
    handle: ({ server: { db }, body: { incidentId, imagined, at } }) =>
      tryIncident(
        db,
        incidentId !== undefined
          ? { incidentId }
          : { imagined: imagined ?? imaginedSchema.parse({ severity: 'major' }) },
        instantFromText(at)
      )
  }),
  operation('PUT', '/routes/{id}', {
    right: 'editor',
    summary: 'Changes a route, from the version that was read.',
    body: z.strictObject({ route: routeSchema, version: z.int().min(1) }),
    answer: routeAnswer,
    handle: async ({ server, params: { id }, body: { route, version }, author }) =>
      answerOf(await saveRoute(server, id, route, version, author.displayName))
  }),
  operation('DELETE', '/routes/{id}', {
    right: 'editor',
    summary: 'Removes a route that no alarm names. Open incidents that it had are routed anew.',
    handle: ({ server, params: { id } }) => removeRoute(server, id)
  })
];
