import { z } from 'zod';
import { agreementFileSchema, agreementKinds } from '$lib/core/agreements';
import { fileFormats } from '$lib/core/forms/file';
import { agreementsAsFile, applyAgreementFile, planAgreementFile } from '../agreements/agreement-files';
import { mostFileBytes } from '../boards/files';
import { inRightOf } from './callers';
import { operationsOf } from './operation';

const operation = operationsOf('Files of agreements');

/** One that is too long is reported by the plan. */
const body = z.strictObject({ text: z.string() });
const plan = z.object({
  things: z.array(
    z.object({
      kind: z.enum(agreementKinds),
      name: z.string(),
      id: z.int().nullable().describe('What would change; null when a new one would be made.'),
      differences: z.array(z.string()).describe('None when it is the same already.'),
      problems: z.array(z.string()).describe('Why it cannot be applied.')
    })
  )
});

export const agreementFileOperations = [
  operation('GET', '/agreements/file', {
    types: ['application/yaml'],
    isAct: true,
    right: 'viewer',
    scope: 'read',
    summary:
      'Exports budgets, promises, responses and summaries that are sent regularly as a file, with names in place of ids.',
    query: z.strictObject({ format: z.enum(fileFormats).default('yaml') }),
    answer: agreementFileSchema,
    handle: async ({ server: { db }, query: { format } }) =>
      new Response(await agreementsAsFile(db, format), {
        headers: {
          'content-type': format === 'json' ? 'application/json' : 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="agreements.${format}"`
        }
      })
  }),
  operation('POST', '/agreements/plan', {
    isAct: false,
    right: 'editor',
    summary: 'Shows what applying such a file would change. Nothing is changed.',
    body,
    mostBytes: mostFileBytes,
    answer: plan,
    handle: async ({ server, body: { text } }) => ({ things: await planAgreementFile(server, text) })
  }),
  operation('POST', '/agreements/apply', {
    right: 'editor',
    summary:
      'Applies such a file, all of it or nothing. What it does not name stays. Whoever applies responses may act on the resources of every account.',
    body,
    mostBytes: mostFileBytes,
    answer: plan.extend({ applied: z.int().describe('How many things were made or changed.') }),
    handle: async (call) => applyAgreementFile(call.server, call.body.text, await inRightOf(call))
  })
];
