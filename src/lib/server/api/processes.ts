import { z } from 'zod';
import { roles } from '../duties/processes';
import { whichProcesses } from '../observe/which-processes';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Bussola itself');

export const processOperations = [
  operation('GET', '/processes', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Lists the processes on the database: those that live, and those that ended without a word within the last hour.',
    answer: z.object({
      processes: z.array(
        z.object({
          instance: z.string(),
          role: z.enum(roles),
          version: z.string(),
          host: z.string(),
          startedAt: instant,
          seenAt: instant,
          lives: z.boolean().describe('Whether it was seen within the last seconds.'),
          answers: z.boolean().describe('Whether it is the one that answers.'),
          accounts: z.array(z.string()).describe('Names of accounts that it reads.'),
          does: z.array(z.string()).describe('What else of the work it does now.')
        })
      )
    }),
    handle: async ({ server }) => ({ processes: await whichProcesses(server) })
  })
];
