import { z } from 'zod';
import { connectorParts, longestConnector } from '$lib/core/connector';
import { idSchema } from '$lib/core/forms/id';
import { instantTextSchema } from '$lib/core/forms/instant-text';
import { problemOf } from '$lib/core/problem/problem';
import {
  addConnector,
  changeConnector,
  readOrRefuse,
  recordTry,
  removeConnector,
  removeRecording,
  requireConnector,
  testText,
  tryText
} from '../connectors/manage-connectors';
import { shownExchange } from '../connectors/recordings';
import { listConnectors, listRecordings } from '../connectors/stored-connectors';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Connectors');

const text = z.string().max(longestConnector).describe('The file of the connector, as YAML.');
const mostBytes = 2 * longestConnector;
const moment = z.union([z.literal(''), z.iso.date(), instantTextSchema]);
const listed = { id: z.int(), key: z.string(), name: z.string(), changedAt: instant, changedBy: z.string() };

const order = {
  text,
  access: z
    .union([
      z.strictObject({ accountId: z.int().pipe(idSchema) }),
      z.strictObject({
        endpoint: z.url({ protocol: /^https?$/ }).max(500),
        keyId: z.string().max(300),
        secret: z.string().max(10_000)
      })
    ])
    .describe('An account that is read by the connector, or a credential that is used this once and not stored.'),
  part: z.enum(connectorParts),
  inputs: z
    .strictObject({
      resource: z.string().max(400).optional().describe('Id of a resource, or name of what writes lines.'),
      metrics: z.array(z.string().max(200)).max(100).optional(),
      from: moment.optional(),
      to: moment.optional(),
      cursor: z.string().max(500).optional()
    })
    .default({})
};

const texts = z.record(z.string(), z.string());
const exchange = z.object({
  method: z.string(),
  url: z.string(),
  headers: texts,
  signs: z.array(z.string()).describe('Headers that sign in; what they hold is not shown.'),
  body: z.string().nullable(),
  status: z.int(),
  answerHeaders: texts,
  answer: z.string(),
  isCut: z.boolean().describe('Whether the answer is longer than what is shown.')
});
const problem = z.looseObject({ code: z.string(), message: z.string(), remedy: z.string() });
const recordingParams = z.strictObject({
  id: z.coerce.number().pipe(idSchema),
  recording: z.coerce.number().pipe(idSchema)
});

export const connectorOperations = [
  operation('GET', '/connectors', {
    list: wholeList('connectors'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists connectors: providers that people described.',
    answer: z.object({
      connectors: z.array(z.object({ ...listed, accounts: z.int(), recordings: z.int() }))
    }),
    handle: async ({ server }) => ({ connectors: await listConnectors(server.db) })
  }),
  operation('GET', '/connectors/{id}', {
    right: 'administrator',
    summary: 'Reads a connector with its file and its recordings.',
    answer: z.object({
      ...listed,
      text: z.string(),
      version: z.int(),
      recordings: z.array(
        z.object({ id: z.int(), name: z.string(), part: z.enum(connectorParts), madeAt: instant, madeBy: z.string() })
      )
    }),
    handle: async ({ server, params: { id } }) => ({
      ...(await requireConnector(server, id)),
      recordings: await listRecordings(server.db, id)
    })
  }),
  operation('POST', '/connectors', {
    right: 'administrator',
    summary: 'Saves a new connector; accounts can be connected by it at once.',
    body: z.strictObject({ text }),
    mostBytes,
    answer: z.object({ id: z.int() }),
    status: 201,
    handle: async ({ server, body, author }) => ({ id: await addConnector(server, body.text, author.displayName) })
  }),
  operation('PUT', '/connectors/{id}', {
    right: 'administrator',
    summary: 'Changes a connector; its accounts are read by it from now on.',
    body: z.strictObject({ text, version: z.int().min(1).describe('The version that was read.') }),
    mostBytes,
    handle: async ({ server, params: { id }, body, author }) => changeConnector(server, id, body, author.displayName)
  }),
  operation('DELETE', '/connectors/{id}', {
    right: 'administrator',
    summary: 'Removes a connector that no account is read by.',
    handle: async ({ server, params: { id } }) => removeConnector(server, id)
  }),
  operation('POST', '/connectors/check', {
    right: 'administrator',
    summary: 'Reads the file of a connector and each of its expressions. Nothing is stored.',
    isAct: false,
    body: z.strictObject({ text }),
    mostBytes,
    answer: z.object({ key: z.string(), name: z.string(), parts: z.array(z.enum(connectorParts)) }),
    handle: async ({ server, body }) => {
      const connector = await readOrRefuse(server, body.text);
      return {
        key: connector.key,
        name: connector.name,
        parts: connectorParts.filter((part) => connector[part] !== undefined)
      };
    }
  }),
  operation('POST', '/connectors/try', {
    right: 'administrator',
    summary: 'Tries one part of a connector: each request, its answer, and what it is mapped to. Nothing is stored.',
    isAct: false,
    body: z.strictObject(order),
    mostBytes,
    answer: z.object({
      inputs: z.looseObject({}),
      exchanges: z.array(exchange),
      items: z.array(z.unknown()).nullable(),
      refused: z.int().describe('Values that are no numbers, and were refused.'),
      problem: problem.nullable()
    }),
    handle: async ({ server, body }) => {
      const { tried } = await tryText(server, body);
      return {
        inputs: { ...tried.inputs },
        exchanges: tried.exchanges.map(shownExchange),
        items: tried.items as never,
        refused: tried.refused,
        problem: tried.problem === null ? null : { ...problemOf(tried.problem) }
      };
    }
  }),
  operation('POST', '/connectors/{id}/recordings', {
    right: 'administrator',
    summary: 'Tries one part of a connector, and saves what was requested and answered under a name.',
    body: z.strictObject({ ...order, name: z.string().trim().min(1).max(60) }),
    mostBytes,
    answer: z.object({ id: z.int() }),
    status: 201,
    handle: async ({ server, params: { id }, body, author }) => ({
      id: await recordTry(server, id, body, author.displayName)
    })
  }),
  operation('POST', '/connectors/{id}/test', {
    right: 'administrator',
    summary: 'Tests the file of a connector on its recordings, without the provider. Nothing is stored.',
    isAct: false,
    body: z.strictObject({ text }),
    mostBytes,
    answer: z.object({
      results: z.array(
        z.object({
          id: z.int(),
          name: z.string(),
          part: z.enum(connectorParts),
          passed: z.boolean(),
          says: z.string().nullable()
        })
      )
    }),
    handle: async ({ server, params: { id }, body }) => ({ results: await testText(server, id, body.text) })
  }),
  operation('DELETE', '/connectors/{id}/recordings/{recording}', {
    right: 'administrator',
    summary: 'Removes a recording of a connector.',
    params: recordingParams,
    handle: async ({ server, params: { id, recording } }) => removeRecording(server, id, recording)
  })
];
