import { z } from 'zod';
import { budgetSchema, dateOf, levelOf, type Budget, type BudgetStanding } from '$lib/core/cost';
import { budgetStandings, tryBudget } from '../cost/budget-standings';
import { budgets, type StoredBudget } from '../cost/budgets';
import { asStored, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Costs');

const standingAnswer = z
  .object({
    ...{ from: z.iso.date(), to: z.iso.date().describe('The day after the last.') },
    spent: z.number().describe('Billed in this period, in the currency of the budget.'),
    until: z.iso.date().describe('The first day that is not billed.'),
    expected: z.number().nullable().describe('At the end of the period; null where there are too few days to go by.')
  })
  .nullable();
const standingOf = (standing: BudgetStanding | null) =>
  standing && {
    ...{ from: dateOf(standing.period.from), to: dateOf(standing.period.to), until: dateOf(standing.until) },
    ...{ spent: standing.spent, expected: standing.expected }
  };
const budgetAnswer = z.object({
  ...{
    id: z.int(),
    budget: asStored<Budget>(budgetSchema),
    version: z.int(),
    changedBy: z.string(),
    alarmId: z.int().nullable()
  }
});
const budgetOf = ({ id, value: budget, version, changedBy, alarmId }: StoredBudget) => ({
  ...{ id, budget, version, changedBy, alarmId }
});

export const budgetOperations = [
  operation('GET', '/budgets', {
    list: wholeList('budgets'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists budgets, by name, with how they stand.',
    answer: z.object({
      budgets: z.array(budgetAnswer.extend({ standing: standingAnswer, severity: z.string().nullable() }))
    }),
    handle: async ({ server }) => {
      const all = await budgets.all(server.db);
      const standings = await budgetStandings(
        server,
        all.map(({ value }) => value),
        server.clock.now()
      );
      return {
        budgets: all.map((one, index) => {
          const standing = standings[index] ?? null;
          const level = standing && levelOf(one.value, standing);
          return { ...budgetOf(one), standing: standingOf(standing), severity: level?.severity ?? null };
        })
      };
    }
  }),
  operation('POST', '/budgets', {
    right: 'editor',
    summary: 'Adds a budget and the alarm that is raised by it.',
    body: budgetSchema,
    answer: budgetAnswer,
    status: 201,
    handle: async ({ server, body, author }) => budgetOf(await budgets.add(server, body, author.displayName))
  }),
  operation('PUT', '/budgets/{id}', {
    right: 'editor',
    summary: 'Changes a budget and its alarm, unless somebody else has meanwhile.',
    body: z.strictObject({ budget: budgetSchema, version: z.int().min(1) }),
    answer: budgetAnswer,
    handle: async ({ server, params: { id }, body: { budget, version }, author }) =>
      budgetOf(await budgets.save(server, id, version, budget, author.displayName))
  }),
  operation('DELETE', '/budgets/{id}', {
    right: 'editor',
    summary: 'Removes a budget with its alarm.',
    handle: ({ server, params: { id } }) => budgets.remove(server, id)
  }),
  operation('POST', '/budgets/try', {
    right: 'viewer',
    scope: 'read',
    summary: 'Says how a budget would stand, and what its past periods cost. Nothing is stored.',
    body: budgetSchema,
    answer: z.object({
      standing: standingAnswer,
      past: z.array(
        z.object({
          ...{ from: z.iso.date(), to: z.iso.date(), spent: z.number() },
          passedOn: z.iso.date().nullable().describe('The first day on which what was billed passed the amount.')
        })
      )
    }),
    handle: async ({ server, body }) => {
      const { standing, past } = await tryBudget(server, body, server.clock.now());
      return {
        standing: standingOf(standing),
        past: past.map(({ from, to, spent, passedOn }) => ({
          ...{ from: dateOf(from), to: dateOf(to), spent },
          passedOn: passedOn === null ? null : dateOf(passedOn)
        }))
      };
    }
  })
];
