import { z } from 'zod';
import { checkSchema, phases, type Attempt } from '$lib/core/reachability';
import { allChecks, attemptsOf, type StoredCheck } from '../reachability/checks';
import { addCheck, removeCheck, saveCheck } from '../reachability/manage-checks';
import { instant, operationsOf } from './operation';
import { placeOf, readList, wholeList } from './paging';

const operation = operationsOf('Reachability');

const attemptAnswer = z.object({
  at: instant,
  problem: z.string().nullable().describe('Why it failed; null when all was as the check says.'),
  took: z.number().describe('The whole time, ms.'),
  phases: z.partialRecord(z.enum(phases), z.number()).describe('Time of each phase that was reached, ms.'),
  address: z.string(),
  status: z.int().nullable(),
  certificateUntil: instant.nullable(),
  answers: z.array(z.string())
});
const attemptOf = ({ at, problem, took, phases: spent, address, status, certificateUntil, answers }: Attempt) => ({
  ...{ at, problem, took, phases: { ...spent }, address, status, certificateUntil, answers: [...answers] }
});
const checkAnswer = z.object({
  id: z.int(),
  check: checkSchema,
  version: z.int(),
  changedAt: instant,
  changedBy: z.string(),
  state: z.enum(['up', 'down', 'unknown']),
  since: instant.nullable(),
  last: attemptAnswer.nullable().describe('The newest attempt.')
});
const checkOf = ({ id, check, version, changedAt, changedBy, standing: { state, since }, last }: StoredCheck) => ({
  ...{ id, check, version, changedAt, changedBy, state, since },
  last: last === null ? null : attemptOf(last)
});

export const checkOperations = [
  operation('GET', '/checks', {
    list: wholeList('checks'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists reachability checks, by name, with how they stand.',
    answer: z.object({ checks: z.array(checkAnswer) }),
    handle: async ({ server: { db } }) => ({ checks: (await allChecks(db)).map(checkOf) })
  }),
  operation('POST', '/checks', {
    right: 'editor',
    summary: 'Adds a reachability check; its first attempt is made at once.',
    body: checkSchema,
    answer: checkAnswer,
    status: 201,
    handle: async ({ server, body, author }) => checkOf(await addCheck(server, body, author.displayName))
  }),
  operation('PUT', '/checks/{id}', {
    right: 'editor',
    summary: 'Changes a reachability check, unless somebody else has meanwhile. How it stood is forgotten.',
    body: z.strictObject({ check: checkSchema, version: z.int().min(1) }),
    answer: checkAnswer,
    handle: async ({ server, params: { id }, body: { check, version }, author }) =>
      checkOf(await saveCheck(server, id, version, check, author.displayName))
  }),
  operation('DELETE', '/checks/{id}', {
    right: 'editor',
    summary: 'Removes a reachability check; the history of its metrics stays.',
    handle: ({ server, params: { id } }) => removeCheck(server, id)
  }),
  operation('GET', '/checks/{id}/attempts', {
    list: readList('attempts', { usual: 50, most: 200, place: ({ at }: { at: number }) => [at] }),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists attempts of a check that failed or changed how it stands, newest first.',
    query: z.strictObject({}),
    answer: z.object({ attempts: z.array(attemptAnswer.extend({ state: z.enum(['up', 'down', 'unknown']) })) }),
    handle: async ({ server: { db }, params: { id }, page }) => {
      const [before = null] = placeOf(page, 1) ?? [];
      const attempts = await attemptsOf(db, id, page.limit, before);
      return { attempts: attempts.map(({ attempt: made, state }) => ({ ...attemptOf(made), state })) };
    }
  }),
  operation('POST', '/checks/try', {
    right: 'editor',
    isAct: false,
    summary: 'Makes one attempt of a check that need not be saved, and stores nothing.',
    body: checkSchema,
    answer: attemptAnswer,
    handle: async ({ server, body, author }) => {
      const { checkTrials, refusedWhy, clock } = server;
      return attemptOf(await checkTrials.try(author.displayName, body, refusedWhy, clock.now()));
    }
  })
];
