import { z } from 'zod';
import { fileFormats } from '$lib/core/forms/file';
import { onCallFileSchema } from '$lib/core/notify/on-call-file';
import { mostFileBytes } from '../boards/files';
import { applyOnCallFile, onCallAsFile, planOnCallFile } from '../respond/on-call-files';
import { operationsOf } from './operation';

const operation = operationsOf('Routes and rotas');

/** One that is too long is reported by the plan. */
const body = z.strictObject({ text: z.string() });
const plan = z.object({
  things: z.array(
    z.object({
      kind: z.enum(['channel', 'rota', 'route']),
      name: z.string(),
      id: z.int().nullable().describe('What would change; null when a new one would be made.'),
      differences: z.array(z.string()).describe('None when it is the same already.'),
      problems: z.array(z.string()).describe('Why it cannot be applied.')
    })
  ),
  reorders: z.boolean().describe('Whether the routes of the list would come into another order.')
});

export const onCallFileOperations = [
  operation('GET', '/on-call/file', {
    types: ['application/yaml'],
    isAct: true,
    right: 'viewer',
    scope: 'read',
    summary: 'Exports channels without their secrets, rotas, and routes in their order as a file.',
    query: z.strictObject({ format: z.enum(fileFormats).default('yaml') }),
    answer: onCallFileSchema,
    handle: async ({ server: { db }, query: { format } }) =>
      new Response(await onCallAsFile(db, format), {
        headers: {
          'content-type': format === 'json' ? 'application/json' : 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="on-call.${format}"`
        }
      })
  }),
  operation('POST', '/on-call/plan', {
    isAct: false,
    right: 'editor',
    summary: 'Shows what applying a file of channels, rotas and routes would change. Nothing is changed.',
    body,
    mostBytes: mostFileBytes,
    answer: plan,
    handle: ({ server, body: { text } }) => planOnCallFile(server, text)
  }),
  operation('POST', '/on-call/apply', {
    right: 'editor',
    summary: 'Applies a file of channels, rotas and routes, all of it or nothing. What it does not name stays.',
    body,
    mostBytes: mostFileBytes,
    answer: plan.extend({ applied: z.int().describe('How many things were made or changed.') }),
    handle: ({ server, body: { text }, author }) => applyOnCallFile(server, text, author)
  })
];
