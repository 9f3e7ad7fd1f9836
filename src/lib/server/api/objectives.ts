import { z } from 'zod';
import { severities } from '$lib/core/alarm';
import {
  objectiveSchema,
  proposedLevels,
  signalsOfObjective,
  type ErrorBudget,
  type ObjectiveStanding,
  type PastObjectivePeriod
} from '$lib/core/objective';
import { objectives, type StoredObjective } from '../objective/objectives';
import { objectiveStandings, objectiveView, tryObjective } from '../objective/objective-view';
import { keyOf } from '../query/query';
import { refuseHiddenLines } from './hidden-lines';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Objectives');

const budgetAnswer = {
  all: z.number().describe('How much there was in all: in the unit of the signal, or in cells of five minutes.'),
  bad: z.number(),
  allowed: z.number().describe('How much may be bad.'),
  share: z.number().nullable().describe('How much was good, 0 to 1; null where there was nothing.'),
  left: z.number().nullable().describe('The share of the error budget that is left: below 0 the promise is broken.')
};
const budgetOf = ({ all, bad, allowed, share, left }: ErrorBudget) => ({ all, bad, allowed, share, left });
const standingAnswer = z.object({
  ...{ from: instant, to: instant.describe('The end of the period; of one that moves, now.'), until: instant },
  ...budgetAnswer,
  rates: z.array(
    z.object({
      minutes: z.int(),
      rate: z.number().nullable().describe('1 is just so fast that the budget lasts for the period.')
    })
  ),
  pace: z.number().nullable(),
  ...{ spentAt: instant.nullable(), spentSince: instant.nullable() }
});
const standingOf = (one: ObjectiveStanding) => ({
  ...{ from: one.period.from, to: one.period.to, until: one.until },
  ...budgetOf(one),
  rates: one.rates.map(({ minutes, rate }) => ({ minutes, rate })),
  pace: one.pace,
  spentAt: one.spentAt,
  spentSince: one.spentSince
});
const pastAnswer = z.array(z.object({ ...{ from: instant, to: instant }, ...budgetAnswer }));
const pastOf = (past: readonly PastObjectivePeriod[]) =>
  past.map((one) => ({
    ...{ from: one.period.from, to: one.period.to },
    ...budgetOf(one)
  }));
const objectiveAnswer = z.object({
  ...{ id: z.int(), objective: objectiveSchema, version: z.int(), changedBy: z.string(), alarmId: z.int().nullable() }
});
const objectiveOf = ({ id, value: objective, version, changedBy, alarmId }: StoredObjective) => ({
  ...{ id, objective, version, changedBy, alarmId }
});

export const objectiveOperations = [
  operation('GET', '/objectives', {
    list: wholeList('objectives'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists promises, by name, with how they stand.',
    answer: z.object({
      objectives: z.array(
        objectiveAnswer.extend({
          standing: standingAnswer.nullable(),
          problem: z.string().nullable().describe('Why it cannot be said how it stands.')
        })
      )
    }),
    handle: async ({ server }) => {
      const all = await objectives.all(server.db);
      const standings = await objectiveStandings(server, all);
      return {
        objectives: all.map((one, index) => {
          const found = standings[index];
          return {
            ...objectiveOf(one),
            standing: found?.standing ? standingOf(found.standing) : null,
            problem: found?.problem?.message ?? null
          };
        })
      };
    }
  }),
  operation('GET', '/objectives/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Says how a promise stands, how it was met before, and what used its error budget.',
    answer: objectiveAnswer.extend({
      standing: standingAnswer,
      past: pastAnswer,
      used: z.array(
        z.object({
          ...{ from: instant, to: instant, bad: z.number() },
          share: z.number().describe('Of the error budget of the period.'),
          incidents: z.array(z.int()),
          marks: z.array(z.string())
        })
      )
    }),
    handle: async ({ server, params: { id } }) => {
      const stored = await objectives.byId(server.db, id);
      if (stored === null) throw objectives.missing();
      const { standing, past, used } = await objectiveView(server, stored.value, stored.alarmId);
      return {
        ...objectiveOf(stored),
        ...{ standing: standingOf(standing), past: pastOf(past) },
        used: used.map(({ from, to, bad, share, incidents, marks }) => ({
          ...{ from, to, bad, share },
          ...{ incidents: incidents.map((one) => one.id), marks: marks.map(({ text }) => text) }
        }))
      };
    }
  }),
  operation('POST', '/objectives', {
    right: 'editor',
    summary: 'Adds a promise and, where it has levels, the alarm that is raised by it.',
    body: objectiveSchema,
    answer: objectiveAnswer,
    status: 201,
    handle: async ({ server, body, author }) => objectiveOf(await objectives.add(server, body, author.displayName))
  }),
  operation('PUT', '/objectives/{id}', {
    right: 'editor',
    summary: 'Changes a promise and its alarm, unless somebody else has meanwhile.',
    body: z.strictObject({ objective: objectiveSchema, version: z.int().min(1) }),
    answer: objectiveAnswer,
    handle: async ({ server, params: { id }, body: { objective, version }, author }) =>
      objectiveOf(await objectives.save(server, id, version, objective, author.displayName))
  }),
  operation('DELETE', '/objectives/{id}', {
    right: 'editor',
    summary: 'Removes a promise with its alarm.',
    handle: ({ server, params: { id } }) => objectives.remove(server, id)
  }),
  operation('POST', '/objectives/try', {
    right: 'viewer',
    scope: 'read',
    summary:
      'Says how a promise would stand, how its past periods would have been met, and how often its levels would have been reached in 30 days. Nothing is stored.',
    body: objectiveSchema,
    answer: z.object({
      standing: standingAnswer,
      past: pastAnswer,
      raised: z.array(
        z.object({
          severity: z.enum(severities),
          times: z.int(),
          last: z.object({ from: instant, to: instant }).nullable()
        })
      ),
      proposed: objectiveSchema.shape.levels.describe('Levels that suit its target and period.')
    }),
    handle: async (call) => {
      const { server, body, inTurn } = call;
      await refuseHiddenLines(call, signalsOfObjective(body.of), 'A promise');
      // A year is counted for it: it waits for its turn among queries.
      const { standing, past, raised } = await inTurn((reader) =>
        server.queryQueue.ask(reader, keyOf(['promise', body]), () => tryObjective(server, body))
      );
      return {
        ...{ standing: standingOf(standing), past: pastOf(past) },
        raised: raised.map(({ severity, times, last }) => ({
          ...{ severity, times },
          last: last && { from: last.from, to: last.to }
        })),
        proposed: proposedLevels(body)
      };
    }
  })
];
