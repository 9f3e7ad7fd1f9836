import { z } from 'zod';
import { slowWork } from '../base/slow-work';
import { whatIsSlow } from '../observe/what-is-slow';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Bussola itself');

const entries = z.array(
  z.object({
    name: z.string(),
    path: z.string().describe('Its page; empty for none.'),
    times: z.int(),
    total: z.number().describe('All its times together, ms.'),
    mean: z.number().describe('ms'),
    longest: z.number().describe('ms'),
    longestAt: instant
  })
);

export const slowOperations = [
  operation('GET', '/slow', {
    right: 'administrator',
    summary: 'Says what took this process longest, in the last 12 to 24 hours.',
    query: z.strictObject({
      by: z.enum(['total', 'longest']).default('total').describe('All times together, or the longest one.'),
      most: z.coerce.number().int().min(1).max(200).default(20).describe('Of each kind.')
    }),
    answer: z.object({
      hours: z.number().describe('For how long it is remembered that is listed.'),
      panels: entries,
      queries: entries.describe('Signals that no panel of a stored board requested.'),
      pulls: entries.describe('Services of accounts.'),
      requests: entries,
      statements: entries.describe('Of the database, from the web process.')
    }),
    handle: async ({ server, query: { by, most } }) => ({
      hours: slowWork.length / 3_600_000,
      ...(await whatIsSlow(server, slowWork, most, by))
    })
  })
];
