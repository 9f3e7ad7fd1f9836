import { z } from 'zod';
import { boardFileSchema } from '$lib/core/board/file';
import { connectorSchema } from '$lib/core/connector';
import { signalSchema } from '$lib/core/signal';
import { onCallFileSchema } from '$lib/core/notify/on-call-file';
import { alarmFileSchema } from '$lib/core/alarm/file';
import { actOperations } from './acts';
import { alarmOperations } from './alarms';
import { boardOperations } from './boards';
import { boardSharingOperations } from './board-sharing';
import { channelOperations } from './channels';
import { billOperations } from './bills';
import { budgetOperations } from './budgets';
import { objectiveOperations } from './objectives';
import { responseOperations } from './responses';
import { agreementFileOperations } from './agreement-files';
import { summaryOperations } from './summaries';
import { processOperations } from './processes';
import { slowOperations } from './slow';
import { tidyOperations } from './tidy';
import { checkOperations } from './checks';
import { costOperations } from './costs';
import { deviceOperations } from './devices';
import { incidentOperations } from './incidents';
import { logOperations } from './logs';
import { eventOperations } from './events';
import { lineRuleOperations } from './line-rules';
import { oneLineOperations } from './one-line';
import { inventoryOperations } from './inventory';
import { messageTemplateOperations } from './message-templates';
import { markOperations } from './marks';
import { onCallFileOperations } from './on-call-files';
import { listedProblems, openApi } from './openapi';
import { operationsOf, type Operation } from './operation';
import { wholeList } from './paging';
import { outboxOperations } from './outbox';
import { peopleOperations } from './people';
import { rehearsalOperations } from './rehearsal';
import { rotaOperations } from './rotas';
import { routingOperations } from './routing';
import { backupOperations } from './backups';
import { connectorOperations } from './connectors';
import { followerOperations } from './followers';
import { pageOperations } from './pages';
import { shelvingOperations } from './shelvings';
import { signalOperations } from './signals';

const operation = operationsOf('This API');

const schemaOf = (schema: z.ZodType, title: string, description: string) => ({
  ...z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }),
  title,
  description
});

/** Descriptions as they are sent, by their names: each is written once, since anybody may request it and it takes a while. */
const written = new Map<string, string>();

function described(name: string, contentType: string, describe: () => object): Promise<Response> {
  const text = written.get(name) ?? JSON.stringify(describe());
  written.set(name, text);
  return Promise.resolve(new Response(text, { headers: { 'content-type': contentType } }));
}

const aboutItself = [
  operation('GET', '/openapi.json', {
    right: 'anybody',
    summary: 'Describes this API as OpenAPI 3.1.',
    answer: z.looseObject({ openapi: z.string() }),
    handle: ({ server: { origin } }) =>
      described(`openapi ${origin}`, 'application/json', () => openApi(operations, origin))
  }),
  operation('GET', '/problems', {
    list: wholeList('problems', ({ code }: { code: string }) => [code]),
    right: 'anybody',
    summary: 'Lists the codes with which requests are refused.',
    answer: z.object({ problems: z.array(z.object({ code: z.string(), status: z.int(), title: z.string() })) }),
    handle: () => Promise.resolve({ problems: listedProblems() })
  }),
  operation('GET', '/schemas/board', {
    right: 'anybody',
    summary: 'Reads the JSON Schema of board files.',
    answer: z.looseObject({}),
    handle: () =>
      described('board', 'application/schema+json', () =>
        schemaOf(
          boardFileSchema,
          'Bussola board file, version 1',
          'A board with its pickers, sections and panels; every panel holds its signals.'
        )
      )
  }),
  operation('GET', '/schemas/alarms', {
    right: 'anybody',
    summary: 'Reads the JSON Schema of files of alarms.',
    answer: z.looseObject({}),
    handle: () =>
      described('alarms', 'application/schema+json', () =>
        schemaOf(
          alarmFileSchema,
          'Bussola file of alarms, version 1',
          'Alarms with their signals and rules; channels by their addresses, combined alarms by their names.'
        )
      )
  }),
  operation('GET', '/schemas/on-call', {
    right: 'anybody',
    summary: 'Reads the JSON Schema of files of channels, rotas and routes.',
    answer: z.looseObject({}),
    handle: () =>
      described('on-call', 'application/schema+json', () =>
        schemaOf(
          onCallFileSchema,
          'Bussola file of who is on call and notified, version 1',
          'Channels without their secrets, rotas, and routes in their order; everything is named by its name.'
        )
      )
  }),
  operation('GET', '/schemas/connector', {
    right: 'anybody',
    summary: 'Reads the JSON Schema of connectors.',
    answer: z.looseObject({}),
    handle: () =>
      described('connector', 'application/schema+json', () =>
        schemaOf(
          connectorSchema,
          'Bussola connector, version 1',
          'A provider, described: how it is called and signed in at, how its answers go on, and what they are in Bussola. Expressions are JSONata, paths are URI templates (RFC 6570).'
        )
      )
  }),
  operation('GET', '/schemas/signal', {
    right: 'anybody',
    summary: 'Reads the JSON Schema of signals.',
    answer: z.looseObject({}),
    handle: () =>
      described('signal', 'application/schema+json', () =>
        schemaOf(
          signalSchema,
          'Bussola signal, version 2',
          'Which series are picked, aligned to which grid, combined and calculated how, and which rows are shown.'
        )
      )
  })
];

/** Every operation of the API. */
export const operations: readonly Operation[] = [
  ...signalOperations,
  ...boardOperations,
  ...boardSharingOperations,
  ...alarmOperations,
  ...rehearsalOperations,
  ...incidentOperations,
  ...logOperations,
  ...oneLineOperations,
  ...lineRuleOperations,
  ...eventOperations,
  ...checkOperations,
  ...pageOperations,
  ...connectorOperations,
  ...followerOperations,
  ...backupOperations,
  ...costOperations,
  ...billOperations,
  ...budgetOperations,
  ...objectiveOperations,
  ...tidyOperations,
  ...responseOperations,
  ...summaryOperations,
  ...agreementFileOperations,
  ...channelOperations,
  ...deviceOperations,
  ...messageTemplateOperations,
  ...routingOperations,
  ...onCallFileOperations,
  ...rotaOperations,
  ...shelvingOperations,
  ...outboxOperations,
  ...peopleOperations,
  ...actOperations,
  ...markOperations,
  ...processOperations,
  ...slowOperations,
  ...inventoryOperations,
  ...aboutItself
];
