import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import {
  actionSchema,
  providerActs,
  responseSchema,
  runStates,
  runText,
  type ProviderAction
} from '$lib/core/response';
import { Refusal } from '$lib/core/problem/problem';
import { resourceById } from '../inventory/resources';
import { requireActing, requireSomeActing } from '../people/act-access';
import { abilitiesOf, actNow, foretell } from '../responses/act-now';
import { addResponse, removeResponse, saveResponse } from '../responses/manage-responses';
import { allResponses, type StoredResponse } from '../responses/responses';
import { listRuns, type StoredRun } from '../responses/runs';
import { inRightOf } from './callers';
import { instant, operationsOf, type Call } from './operation';
import { placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Responses');

const responseAnswer = z.object({
  id: z.int(),
  response: responseSchema,
  version: z.int(),
  changedAt: instant,
  changedBy: z.string(),
  stoppedAt: instant.nullable().describe('When it stopped itself after failures; saving it lets it act again.'),
  stoppedWhy: z.string().nullable()
});
const responseOf = ({ personId: _, ...stored }: StoredResponse) => stored;

const runAnswer = z.object({
  id: z.int(),
  key: z.string(),
  responseId: z.int().nullable().describe('Null for what somebody did by hand.'),
  incidentId: z.int().nullable(),
  resourceId: z.int().nullable(),
  resource: z.string(),
  action: actionSchema,
  by: z.string().describe('Whoever did it, or the name of the response.'),
  state: z.enum(runStates),
  says: z.string(),
  text: z.string().describe('How it stands, in a sentence.'),
  createdAt: instant,
  sentAt: instant.nullable(),
  endedAt: instant.nullable(),
  effect: z.enum(['cleared', 'still raised']).nullable(),
  effectAt: instant.nullable()
});
const runOf = ({ accountId: _, attempt: _attempt, ...run }: StoredRun) => ({ ...run, text: runText(run) });

/** What is done at the provider by hand: a count is given as a whole. */
const orderSchema = z.strictObject({
  action: actionSchema.refine(
    (action): action is ProviderAction => action.kind !== 'more' && action.kind !== 'webhook',
    {
      error: 'By hand, only what a provider does can be done.'
    }
  ),
  incidentId: idSchema.nullable().default(null)
});

/** The resource of a call, on which its caller may act. @throws Refusal `not-found`, `not-allowed` */
async function permitted({
  server,
  params: { id },
  actAccounts
}: Pick<Call<{ id: number }, unknown, unknown>, 'server' | 'params' | 'actAccounts'>): Promise<number> {
  const resource = await resourceById(server.db, id);
  if (resource === null) throw new Refusal('not-found', 'There is no such resource.', 'Look for it by name.');
  requireActing(await actAccounts(), resource.accountId);
  return id;
}

/** The key of an order (RFC 9110 calls what may be sent again idempotent): whoever gives one may send it again. */
function keyOf(request: Request): string {
  const given = (request.headers.get('idempotency-key') ?? '').replace(/^"|"$/g, '');
  if (given === '') return randomUUID();
  if (z.uuid().safeParse(given).success) return given;
  throw new Refusal('invalid', 'The Idempotency-Key is no UUID.', 'Give a new UUID with each order.');
}

export const responseOperations = [
  operation('GET', '/responses', {
    list: wholeList('responses'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what is done by itself when alarms are raised, by name.',
    answer: z.object({ responses: z.array(responseAnswer) }),
    handle: async ({ server: { db } }) => ({ responses: (await allResponses(db)).map(responseOf) })
  }),
  operation('POST', '/responses', {
    right: 'editor',
    summary: 'Adds a response. Whoever adds it may act on the resources of every account: it acts in their right.',
    body: responseSchema,
    answer: responseAnswer,
    status: 201,
    handle: async (call) => responseOf(await addResponse(call.server, call.body, await inRightOf(call)))
  }),
  operation('PUT', '/responses/{id}', {
    right: 'editor',
    summary: 'Changes a response, unless somebody else has meanwhile. One that had stopped itself acts again.',
    body: z.strictObject({ response: responseSchema, version: z.int().min(1) }),
    answer: responseAnswer,
    handle: async (call) =>
      responseOf(
        await saveResponse(call.server, call.params.id, call.body.version, call.body.response, await inRightOf(call))
      )
  }),
  operation('DELETE', '/responses/{id}', {
    right: 'editor',
    summary: 'Removes a response; what it did is still listed.',
    handle: async ({ server, params: { id }, actAccounts }) => {
      requireSomeActing(await actAccounts());
      await removeResponse(server, id);
    }
  }),
  operation('GET', '/response-runs', {
    list: readList('runs', { usual: 100, most: 500 }),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists what was done with resources, is being done or held back, newest first.',
    query: z.strictObject({
      incident: z.coerce.number().pipe(idSchema).optional(),
      resource: z.coerce.number().pipe(idSchema).optional(),
      response: z.coerce.number().pipe(idSchema).optional()
    }),
    answer: z.object({ runs: z.array(runAnswer) }),
    handle: async ({ server: { db }, query: { incident, resource, response }, page }) => {
      const filter = { incidentId: incident, resourceId: resource, responseId: response };
      const [after = null] = placeOf(page, 1) ?? [];
      return { runs: (await listRuns(db, filter, page.limit, after)).map(runOf) };
    }
  }),
  operation('GET', '/resources/{id}/abilities', {
    right: 'viewer',
    scope: 'act',
    isAct: false,
    summary: 'Says what can be done with a resource at its provider now, for whoever may.',
    answer: z.object({
      kinds: z.array(z.enum(providerActs)),
      isStopped: z.boolean(),
      size: z.object({ now: z.string(), choices: z.array(z.string()) }).nullable(),
      count: z.object({ now: z.int(), least: z.int(), most: z.int() }).nullable()
    }),
    handle: async (call) => abilitiesOf(call.server, await permitted(call))
  }),
  operation('POST', '/resources/{id}/foretell', {
    right: 'viewer',
    scope: 'act',
    isAct: false,
    summary: 'Says what would come of something that is done with a resource; nothing is done.',
    body: orderSchema,
    answer: z.object({ says: z.array(z.string()), isDangerous: z.boolean() }),
    handle: async (call) => foretell(call.server, { ...call.body, resourceId: await permitted(call) })
  }),
  operation('POST', '/resources/{id}/acts', {
    right: 'viewer',
    scope: 'act',
    ownsKey: true,
    summary: 'Does something with a resource at its provider. With an Idempotency-Key, a second time it does nothing.',
    body: orderSchema.extend({
      confirmed: z.string().max(300).nullable().default(null).describe('The resource’s name, for what is dangerous.')
    }),
    answer: runAnswer,
    status: 201,
    handle: async (call) => {
      const { server, request, author, body } = call;
      const { confirmed, ...order } = body;
      const resourceId = await permitted(call);
      const how = { confirmed, by: author.displayName, key: keyOf(request) };
      return runOf(await actNow(server, { ...order, resourceId }, how));
    }
  })
];
