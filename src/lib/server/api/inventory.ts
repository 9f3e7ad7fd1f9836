import { z } from 'zod';
import { catalogueStates } from '$lib/core/catalogue';
import { planSchema, usualPlan } from '$lib/core/intake';
import { Refusal } from '$lib/core/problem/problem';
import { after, day, instantFromText } from '$lib/core/time';
import { isCode } from '$lib/core/units';
import { usesOfMetric } from '../boards/signal-uses';
import { coverageOf } from '../intake/plan/coverage';
import { linesDue } from '../logs/retention';
import { historyDue } from '../incidents/history-retention';
import { removeAccount, stopErasing } from '../intake/pull/remove-account';
import { accountRows } from '../intake/pull/account-view';
import { admitted } from '../intake/receive/admit';
import { storeReceived } from '../intake/receive/receive';
import { accountById } from '../inventory/accounts';
import { correctUnit } from '../alarms/correct-unit';
import { exemplarsOf } from '../inventory/exemplars';
import { allResources, resourceById } from '../inventory/resources';
import { resourceThen } from '../query/signals/resource-then';
import { removalsDue } from '../store/retention';
import { idParams, instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Accounts, resources and metrics');

/** Exemplars of a resource that are listed. */
const mostExemplars = 5;

const account = z.object({
  id: z.int(),
  name: z.string(),
  provider: z.string(),
  endpoint: z.string(),
  createdAt: instant,
  createdBy: z.string(),
  lastPullAt: instant.nullable(),
  lastSuccessAt: instant.nullable(),
  newestAt: instant.nullable(),
  failing: z.int().describe('Services whose collection fails at present.'),
  lastError: z.object({ code: z.string(), message: z.string(), remedy: z.string(), at: instant }).nullable(),
  perMinute: z.int().describe('Samples that arrive in a minute.'),
  series: z.int()
});
const resource = z.object({
  id: z.int(),
  accountId: z.int(),
  account: z.string(),
  provider: z.string(),
  providerId: z.string(),
  name: z.string(),
  type: z.string(),
  service: z.string(),
  region: z.string(),
  tags: z.record(z.string(), z.string()),
  guest: z.enum(['none', 'off', 'on']),
  chosen: z.boolean().nullable(),
  formerNames: z.array(z.object({ name: z.string(), until: instant })),
  firstSeenAt: instant,
  lastSeenAt: instant,
  endedAt: instant.nullable()
});
const metric = z.object({
  name: z.string(),
  title: z.string(),
  description: z.string(),
  unit: z.string().describe('UCUM code.'),
  kind: z.enum(['gauge', 'delta', 'cumulative']),
  shape: z.string(),
  service: z.string(),
  resourceType: z.string(),
  samplingMs: z.int(),
  delayMs: z.int(),
  series: z.int(),
  accounts: z.array(z.string()),
  providers: z.array(z.string()),
  regions: z.array(z.string()),
  labels: z.record(z.string(), z.array(z.string())),
  newest: instant.nullable(),
  state: z.enum(catalogueStates)
});
const keepShape = planSchema.shape.keep.shape;
const service = z.string().min(1).max(60);

const formats = ['openmetrics', 'ndjson', 'csv'] as const;

export const inventoryOperations = [
  operation('GET', '/accounts', {
    list: wholeList('accounts'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists accounts with what arrives from each.',
    answer: z.object({ accounts: z.array(account) }),
    handle: async ({ server }) => ({
      accounts: (await accountRows(server)).map(({ id, name, provider, endpoint, createdAt, createdBy, ...rest }) => {
        const { lastPullAt, lastSuccessAt, newestAt, failing, lastError, perMinute, series } = rest;
        const known = { id, name, provider, endpoint, createdAt, createdBy };
        return { ...known, lastPullAt, lastSuccessAt, newestAt, failing, lastError, perMinute, series };
      })
    })
  }),
  operation('DELETE', '/accounts/{id}', {
    right: 'administrator',
    summary: 'Removes an account. Its history stays for as long as its plans say, or is erased.',
    query: z.strictObject({ history: z.enum(['keep', 'erase']) }),
    handle: ({ server, params: { id }, query: { history }, author }) =>
      removeAccount(server, id, { erase: history === 'erase', by: author.displayName })
  }),
  operation('POST', '/accounts/{id}/stop-erasing', {
    right: 'administrator',
    summary: 'Stops erasing the history of an account that was removed: what is left of it stays.',
    handle: ({ server, params: { id } }) => stopErasing(server, id)
  }),
  operation('POST', '/accounts/{id}/estimate', {
    right: 'viewer',
    scope: 'read',
    summary: 'Estimates what a plan would collect and cost. Nothing is changed.',
    body: z.strictObject({ service, plan: planSchema }),
    answer: z.looseObject({ collected: z.int() }),
    handle: async ({ server, params, body }) => {
      const known = await accountById(server.db, params.id);
      const covered = known && (await coverageOf(server, known, body)).services;
      const found = covered?.find((one) => one.service === body.service);
      if (!found)
        throw new Refusal('not-found', 'The account has no such service.', 'Choose one of those that it has.');
      return { ...found.estimate, collected: found.collected };
    }
  }),
  operation('GET', '/accounts/{id}/retention', {
    right: 'viewer',
    scope: 'read',
    summary: 'Shows what a retention would remove from a service of an account within a day.',
    params: idParams,
    query: z.object({
      service,
      sampleDays: z.coerce.number().pipe(keepShape.sampleDays),
      fiveMinuteDays: z.coerce.number().pipe(keepShape.fiveMinuteDays),
      hourDays: z.coerce.number().pipe(keepShape.hourDays),
      eventDays: z.coerce.number().pipe(keepShape.eventDays.unwrap()).default(usualPlan.keep.eventDays),
      incidentDays: z.coerce.number().pipe(keepShape.incidentDays.unwrap()).default(usualPlan.keep.incidentDays),
      lineDays: z.coerce.number().pipe(keepShape.lineDays.unwrap()).default(usualPlan.keep.lineDays)
    }),
    answer: z.object({
      points: z.number(),
      bytes: z.number(),
      events: z.int(),
      incidents: z.int(),
      lines: z.number(),
      lineBytes: z.number()
    }),
    handle: async ({ server: { db, clock }, params, query: { service: of, ...keep } }) => {
      const supposed = { accountId: params.id, service: of, keep };
      const tomorrow = after(clock.now(), day);
      const [due, { events, incidents }, lines] = await Promise.all([
        removalsDue(db, tomorrow, supposed),
        historyDue(db, tomorrow, supposed),
        linesDue(db, tomorrow, { accountId: params.id, service: of, lineDays: keep.lineDays })
      ]);
      return {
        events,
        incidents,
        lines: lines[0]?.lines ?? 0,
        lineBytes: lines[0]?.bytes ?? 0,
        points: due.reduce((sum, { points }) => sum + points, 0),
        bytes: due.reduce((sum, { bytes }) => sum + bytes, 0)
      };
    }
  }),
  operation('GET', '/resources', {
    list: wholeList('resources'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists resources, of one service when it is named.',
    query: z.object({ service: service.optional() }),
    answer: z.object({ resources: z.array(resource) }),
    handle: async ({ server, query }) => {
      const all = await allResources(server.db);
      return { resources: all.filter((one) => query.service === undefined || one.service === query.service) };
    }
  }),
  operation('GET', '/resources/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a resource with the newest exemplars of its series.',
    answer: resource.extend({
      exemplars: z.array(z.looseObject({ at: instant, value: z.number(), labels: z.record(z.string(), z.string()) }))
    }),
    handle: async ({ server: { db }, params: { id } }) => {
      const found = await resourceById(db, id);
      if (found === null)
        throw new Refusal('not-found', 'There is no such resource.', 'Look for it in the list of resources.');
      const exemplars = await exemplarsOf(db, id, mostExemplars);
      return { ...found, exemplars: exemplars.map((one) => ({ ...one })) };
    }
  }),
  operation('GET', '/resources/{id}/then', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads the first metrics of a resource around a moment, minute by minute.',
    query: z.object({ at: z.iso.datetime({ offset: true }) }),
    answer: z.object({
      metrics: z.array(
        z.object({
          metric: z.string(),
          title: z.string(),
          unit: z.string(),
          values: z.array(z.number().nullable()).describe('From 45 minutes before it on.'),
          value: z.number().nullable().describe('In the minute of the moment.')
        })
      )
    }),
    handle: async ({ server, params: { id }, query: { at }, inTurn }) => ({
      metrics: await inTurn(() => resourceThen(server, id, instantFromText(at), server.clock.now()))
    })
  }),
  operation('GET', '/metrics', {
    list: { ...wholeList('metrics', ({ name }: { name: string }) => [name]), usual: 60, most: 500 },
    right: 'viewer',
    scope: 'read',
    summary: 'Searches the catalogue, best match first.',
    query: z.object({
      text: z.string().max(200).default(''),
      state: z.enum([...catalogueStates, 'pushed']).optional(),
      service: z.string().max(60).optional()
    }),
    answer: z.object({ found: z.int(), metrics: z.array(metric) }),
    handle: async ({ server, query }) => {
      const { catalogue } = server;
      const known = (await catalogue.search()).find(query);
      // A metric that was made a moment ago is found, even where the catalogue takes a while to read.
      const found = known.length > 0 ? known : (await catalogue.newest()).find(query);
      return { found: found.length, metrics: found };
    }
  }),
  operation('GET', '/metrics/{name}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads a metric: what it is, where it exists, and what uses it.',
    params: z.strictObject({ name: z.string().min(1).max(300) }),
    answer: metric.extend({ uses: z.array(z.object({ kind: z.string(), id: z.int(), name: z.string() })) }),
    handle: async ({ server: { db, catalogue }, params: { name } }) => {
      const entry = (await catalogue.search()).entries.find((one) => one.name === name);
      if (!entry) throw new Refusal('not-found', `There is no metric named ${name}.`, 'Look for it in the catalogue.');
      return { ...entry, uses: await usesOfMetric(db, entry.name) };
    }
  }),
  operation('PUT', '/metrics/{name}/unit', {
    right: 'editor',
    summary: 'Corrects the unit of a metric that programs send. Its numbers stay as they are.',
    params: z.strictObject({ name: z.string().min(1).max(300) }),
    body: z.strictObject({
      unit: z
        .string()
        .max(63)
        .refine((code) => code === '1' || isCode(code), { error: 'Give a UCUM code, such as Cel, %, By or {ticket}.' })
    }),
    handle: ({ server, params: { name }, body: { unit }, author }) =>
      correctUnit(server, name, unit, author.displayName)
  }),
  operation('POST', '/receive/{format}', {
    isAct: false,
    right: 'anybody',
    scope: 'metrics',
    isRaw: true,
    summary: 'Takes samples as OpenMetrics text, CSV or newline-delimited JSON.',
    params: z.strictObject({ format: z.enum(formats) }),
    answer: z.object({
      accepted: z.int(),
      rejected: z.int(),
      reasons: z.record(z.string(), z.int()),
      faults: z.array(z.string())
    }),
    handle: async ({ server, request, params: { format } }) => {
      const { key, body, isGzip } = await admitted(server, request, 'metrics');
      const received = await server.parsers.receive({ format, body, isGzip, now: server.clock.now() });
      const taken = await storeReceived(server, key, received);
      return Response.json(taken, { status: taken.accepted === 0 && taken.rejected > 0 ? 422 : 200 });
    }
  })
];
