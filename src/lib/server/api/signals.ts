import { z } from 'zod';
import { groupRuleSchema } from '$lib/core/group';
import { derivedSchema, signalSchema, type Signal } from '$lib/core/signal';
import { Refusal } from '$lib/core/problem/problem';
import { allDerived } from '../query/derived/derived';
import { makeDerived } from '../query/derived/make-derived';
import { membersOf } from '../query/groups/members';
import { isZone } from '$lib/core/time';
import { growthOfSignal } from '../query/growth';
import { answerQueries, answerQuery, queriesSchema, querySchema } from '../query/query';
import { saveSignal, namedSignalSchema } from '../query/signals/save-signal';
import { matchSchema } from '../query/signals/matched';
import { allSignals, removeSignal, signalById } from '../query/signals/signals';
import { answerListSchema, answerSchema } from './answers';
import { asStored, instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Signals');

const storedSignal = asStored<Signal>(signalSchema);
const savedSignal = z.object({
  id: z.int(),
  name: z.string(),
  definition: storedSignal,
  changedAt: instant,
  changedBy: z.string()
});
const derivedMetric = z.object({
  id: z.int(),
  accountId: z.int(),
  name: z.string(),
  metric: z.string(),
  definition: storedSignal,
  enabled: z.boolean(),
  createdBy: z.string(),
  computedUntil: instant.nullable(),
  backfillFrom: instant.nullable(),
  backfillUntil: instant.nullable(),
  lastRunAt: instant.nullable(),
  lastError: z.object({ message: z.string(), remedy: z.string() }).nullable(),
  series: z.int(),
  points: z.int(),
  milliseconds: z.number()
});

const noSuchSignal = () =>
  new Refusal('not-found', 'There is no such signal.', 'It may have been removed. See the list of signals.');

const bytesOfJson = (bytes: Uint8Array): Response =>
  new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/json' } });

/** Resources of a group that are listed at most; all are counted. */
const mostListed = 100;

export const signalOperations = [
  operation('POST', '/query', {
    types: ['text/csv'],
    right: 'viewer',
    scope: 'read',
    summary: 'Evaluates a signal over a range. Accept text/csv for a table.',
    body: querySchema,
    answer: answerSchema,
    handle: async ({ server, body, times, request, inTurn }) => {
      const format = (request.headers.get('accept') ?? '').includes('text/csv') ? 'csv' : 'json';
      const bytes = await inTurn((reader) => answerQuery(server, { ...body, times }, reader, format));
      if (format === 'json') return bytesOfJson(bytes);
      return new Response(bytes as Uint8Array<ArrayBuffer>, {
        headers: { 'content-type': 'text/csv; charset=utf-8; header=present' }
      });
    }
  }),
  operation('POST', '/queries', {
    right: 'viewer',
    scope: 'read',
    summary: 'Evaluates several signals together: an answer or a problem for each, in their order.',
    body: queriesSchema,
    answer: answerListSchema,
    handle: async ({ server, body, times, inTurn }) =>
      bytesOfJson(await inTurn((reader) => answerQueries(server, { ...body, times }, reader)))
  }),
  operation('POST', '/growth', {
    right: 'viewer',
    scope: 'read',
    summary: 'Says how a signal goes on, day by day, with an interval that holds 80 of 100 days; and its months.',
    body: z.strictObject({
      signal: signalSchema,
      daysBack: z.int().min(14).max(1200).default(400).describe('Days that are over, from which it is computed.'),
      daysAhead: z.int().min(1).max(400).default(90),
      zone: z.string().max(60).refine(isZone, { error: 'Give a time zone.' }).default('UTC'),
      limit: z
        .strictObject({ is: z.enum(['above', 'below']), at: z.number() })
        .nullable()
        .default(null)
        .describe('Of which it is said when it is reached.')
    }),
    answer: z.object({
      starts: z.array(instant).describe('When the days began.'),
      ahead: z.array(instant).describe('The same of those ahead.'),
      series: z.array(
        z.object({
          ...{ name: z.string(), labels: z.record(z.string(), z.string()), resource: z.string() },
          unit: z.string().describe('UCUM code.'),
          values: z.array(z.number().nullable()),
          growth: z
            .object({
              slope: z.number().describe('By how much it changes in a day, by its trend.'),
              slopeLeast: z.number().describe('At least so much, with 90 % confidence.'),
              slopeMost: z.number(),
              expected: z.array(z.number()),
              low: z.array(z.number()).describe('Between these lie 80 of 100 days.'),
              high: z.array(z.number())
            })
            .nullable()
            .describe('Null with fewer than 14 days.'),
          reached: z
            .object({ earliest: z.int().nullable(), expected: z.int().nullable(), latest: z.int().nullable() })
            .nullable()
            .describe('In how many days the limit is reached; null for not within those ahead.'),
          months: z.array(
            z.object({
              ...{ month: z.string(), mean: z.number(), days: z.int() },
              yearBefore: z.number().nullable().describe('The same month a year before.')
            })
          )
        })
      ),
      more: z.int().describe('Series that are left out.')
    }),
    handle: async ({ server, body, inTurn }) => {
      const { series, ...rest } = await inTurn((reader) => growthOfSignal(server, body, reader));
      const numbers = (values: Float64Array) => [...values];
      return {
        ...rest,
        series: series.map(({ growth, ...one }) => ({
          ...one,
          growth: growth && {
            ...growth,
            ...{ expected: numbers(growth.expected), low: numbers(growth.low), high: numbers(growth.high) }
          }
        }))
      };
    }
  }),
  operation('POST', '/picks', {
    right: 'viewer',
    scope: 'read',
    summary: 'Counts what a pick selects, and what it could choose from.',
    body: matchSchema,
    answer: z.object({
      total: z.int(),
      matched: z.int(),
      left: z.array(z.int()),
      labels: z.array(
        z.object({
          name: z.string(),
          values: z.array(z.object({ value: z.string(), count: z.int() })),
          distinct: z.int()
        })
      )
    }),
    handle: ({ server: { queryQueue, evaluator }, body, inTurn }) =>
      inTurn((reader) => queryQueue.ask(reader, null, () => evaluator.matched(body)))
  }),
  operation('GET', '/signals', {
    list: wholeList('signals'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists saved signals.',
    answer: z.object({ signals: z.array(savedSignal) }),
    handle: async ({ server }) => ({ signals: await allSignals(server.db) })
  }),
  operation('POST', '/signals', {
    right: 'editor',
    summary: 'Saves a signal under a name.',
    body: namedSignalSchema,
    answer: savedSignal,
    status: 201,
    handle: async ({ server, body, author }) => {
      const saved = await saveSignal(server, null, body, author.displayName);
      if (saved === null) throw noSuchSignal();
      return saved;
    }
  }),
  operation('GET', '/signals/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a saved signal.',
    answer: savedSignal,
    handle: async ({ server, params }) => {
      const signal = await signalById(server.db, params.id);
      if (signal === null) throw noSuchSignal();
      return signal;
    }
  }),
  operation('PUT', '/signals/{id}', {
    right: 'editor',
    summary: 'Replaces a saved signal.',
    body: namedSignalSchema,
    answer: savedSignal,
    handle: async ({ server, params, body, author }) => {
      const saved = await saveSignal(server, params.id, body, author.displayName);
      if (saved === null) throw noSuchSignal();
      return saved;
    }
  }),
  operation('DELETE', '/signals/{id}', {
    right: 'editor',
    summary: 'Removes a saved signal.',
    handle: ({ server, params }) => removeSignal(server.db, params.id)
  }),
  operation('GET', '/derived', {
    list: wholeList('derived'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists derived metrics.',
    answer: z.object({ derived: z.array(derivedMetric) }),
    handle: async ({ server }) => ({ derived: await allDerived(server.db) })
  }),
  operation('POST', '/derived', {
    right: 'editor',
    summary: 'Makes a derived metric.',
    body: derivedSchema.extend({ backfillDays: z.int().min(0).max(400).default(0) }),
    answer: derivedMetric,
    status: 201,
    handle: ({ server, body: { backfillDays, ...definition }, author }) =>
      makeDerived(server, definition, author.displayName, backfillDays)
  }),
  operation('POST', '/groups/match', {
    right: 'viewer',
    scope: 'read',
    summary: 'Counts the resources that a rule would gather, and lists the first.',
    body: groupRuleSchema,
    answer: z.object({
      count: z.int(),
      resources: z.array(
        z.object({ id: z.int(), name: z.string(), account: z.string(), region: z.string(), service: z.string() })
      )
    }),
    handle: async ({ server, body }) => {
      const members = await membersOf(server.db, body);
      return {
        count: members.length,
        resources: members
          .slice(0, mostListed)
          .map(({ id, name, account, region, service }) => ({ id, name, account, region, service }))
      };
    }
  })
];
