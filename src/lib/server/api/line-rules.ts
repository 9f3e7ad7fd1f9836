import { z } from 'zod';
import { lineRuleSchema, secretKinds } from '$lib/core/logs';
import { addLineRule, lineRules, removeLineRule } from '../logs/line-rules';
import { proposeMasks, tryRule, type TriedRule } from '../logs/try-rule';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Logs');

const ruleAnswer = z.object({
  id: z.int(),
  rule: lineRuleSchema,
  createdAt: instant,
  createdBy: z.string(),
  lines: z.int().describe('Lines that it left out or masked.'),
  lastAt: instant.nullable().describe('When the last of them arrived.')
});
const triedAnswer = z.object({
  tried: z.int().describe('Lines of the last day that were looked at.'),
  hits: z.int().describe('How many of them it would have left out or masked.'),
  examples: z.array(
    z.object({
      key: z.string(),
      text: z.string(),
      marks: z.array(z.tuple([z.int(), z.int()])).describe('Where something would have been masked.'),
      stored: z.string().nullable().describe('What would have been stored; null for nothing.')
    })
  )
});
const triedOf = ({ tried, hits, examples }: TriedRule) => ({
  ...{ tried, hits },
  examples: examples.map((line) => ({ ...line, marks: line.marks.map(([from, to]): [number, number] => [from, to]) }))
});

export const lineRuleOperations = [
  operation('GET', '/line-rules', {
    list: wholeList('rules'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the rules by which lines are left out or masked before they are stored.',
    answer: z.object({ rules: z.array(ruleAnswer) }),
    handle: async ({ server: { db } }) => ({ rules: await lineRules(db) })
  }),
  operation('POST', '/line-rules', {
    right: 'administrator',
    summary: 'Adds a rule for lines that arrive from now on.',
    body: lineRuleSchema,
    answer: ruleAnswer,
    status: 201,
    handle: ({ server, body, author }) => addLineRule(server, body, author.displayName)
  }),
  operation('DELETE', '/line-rules/{id}', {
    right: 'administrator',
    summary: 'Removes a rule. What it masked stays masked.',
    handle: ({ server, params: { id } }) => removeLineRule(server, id)
  }),
  operation('POST', '/line-rules/try', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Tries a rule on the newest lines of the last day, and changes nothing.',
    body: lineRuleSchema,
    answer: triedAnswer,
    handle: async ({ server, body, lineAccounts, inTurn }) => {
      const accounts = await lineAccounts();
      return triedOf(await inTurn(() => tryRule(server, body, accounts)));
    }
  }),
  operation('GET', '/line-rules/proposals', {
    right: 'viewer',
    scope: 'read-lines',
    summary: 'Looks for secrets in the newest lines of the last day, and proposes masks.',
    answer: z.object({ proposals: z.array(triedAnswer.extend({ kind: z.enum(secretKinds), name: z.string() })) }),
    handle: async ({ server, lineAccounts, inTurn }) => {
      const accounts = await lineAccounts();
      const proposals = await inTurn(() => proposeMasks(server, accounts));
      return { proposals: proposals.map(({ kind, name, ...tried }) => ({ kind, name, ...triedOf(tried) })) };
    }
  })
];
