import { z } from 'zod';
import { accountFormSchema } from '$lib/core/forms/forms';
import { idSchema } from '$lib/core/forms/id';
import { targetsSchema } from '$lib/core/targets';
import { changePages, connectPages, requirePages, tryPages } from '../intake/targets/manage-pages';
import { targetStates } from '../intake/targets/target-states';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('OpenMetrics pages');

const secret = z
  .string()
  .max(20_000)
  .default('')
  .describe(
    'What signs in: a token, a password, the value of a header, or the key of a certificate. Never shown again.'
  );
const labels = z.record(z.string(), z.string());

const stateAnswer = z.object({
  name: z.string(),
  url: z.string(),
  labels,
  isUp: z.boolean().nullable().describe('Null before it was read for the first time.'),
  since: instant.nullable().describe('Since when it is up or down.'),
  readAt: instant.nullable(),
  tookMs: z.int().nullable(),
  samples: z.int().nullable(),
  leftOut: z.int().nullable().describe('Lines that rules left out.'),
  problem: z.string().nullable()
});

export const pageOperations = [
  operation('GET', '/accounts/{id}/pages', {
    list: wholeList('pages'),
    right: 'viewer',
    scope: 'read',
    summary: 'Tells what an account of OpenMetrics pages reads, and how reading each page went last.',
    answer: z.object({ definition: targetsSchema, pages: z.array(stateAnswer) }),
    handle: async ({ server, params: { id } }) => {
      const { definition } = await requirePages(server, id);
      return { definition, pages: await targetStates(server.db, id) };
    }
  }),
  operation('POST', '/accounts/pages', {
    right: 'administrator',
    summary: 'Connects an account of OpenMetrics pages; they are read from now on.',
    body: z.strictObject({ name: accountFormSchema.shape.name, definition: targetsSchema, secret }),
    answer: z.object({ id: z.int() }),
    status: 201,
    handle: async ({ server, body, author }) => ({ id: await connectPages(server, body, author.displayName) })
  }),
  operation('PUT', '/accounts/{id}/pages', {
    right: 'administrator',
    summary: 'Changes what an account of OpenMetrics pages reads. Without a secret, the one that it has stays.',
    body: z.strictObject({ definition: targetsSchema, secret }),
    handle: async ({ server, params: { id }, body: { definition, secret: given } }) =>
      changePages(server, id, definition, given)
  }),
  operation('POST', '/accounts/pages/try', {
    right: 'administrator',
    summary:
      'Lists the pages of an account that need not be saved, reads one of them, and shows its series before and after the rules. Nothing is stored.',
    isAct: false,
    body: z.strictObject({
      definition: targetsSchema,
      secret,
      accountId: z
        .int()
        .pipe(idSchema)
        .nullable()
        .default(null)
        .describe('The account whose secret is used where none is given.'),
      page: z
        .string()
        .max(600)
        .nullable()
        .default(null)
        .describe('The name of the page to be read; the first by default.')
    }),
    answer: z.object({
      count: z.int(),
      pages: z.array(z.object({ name: z.string(), url: z.string(), labels })),
      reading: z
        .object({
          name: z.string(),
          isUp: z.boolean(),
          readAt: instant,
          tookMs: z.int(),
          samples: z.int(),
          leftOut: z.int(),
          problem: z.string().nullable(),
          series: z.int(),
          stored: z.int().describe('Series that are left once rules are applied.')
        })
        .nullable(),
      series: z.array(z.object({ from: z.string(), to: z.string().nullable() })).describe('300 of them at most.')
    }),
    handle: async ({ server, body: { page, ...account } }) => tryPages(server, account, page)
  })
];
