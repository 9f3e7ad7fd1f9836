import { z } from 'zod';
import { dayAt } from '$lib/core/cost';
import { serviceOfType } from '$lib/core/services';
import { before, day, minute, textFromInstant, times, type Clock, type Range } from '$lib/core/time';
import { accessTest } from '../port/checks';
import { columnsOf, isSound, reading, type RawPoint } from '../port/points';
import type {
  AccessCheck,
  FetchedPage,
  FetchedSeries,
  FoundMetric,
  FoundResource,
  Provider,
  ProviderAccess,
  WantedResource
} from '../port/provider';
import { OstroCalls } from './call';
import { ostroActs, tryOperations } from './acts';
import { ostroBills, tryCharges } from './bills';
import { eventsAfter, ostroEvents } from './events';
import { ostroLines, thingsThatWrite } from './lines';
import { measureOf, metricOf } from './names';

const tenantSchema = z.object({
  tenant: z.string(),
  subscriptions: z.array(z.object({ id: z.string().min(1).max(100), name: z.string().max(200) }))
});

const thingsSchema = z.object({
  things: z.array(
    z.object({
      uri: z.string().min(1).max(300),
      kind: z.string().min(1).max(60),
      title: z.string().min(1).max(200),
      location: z.string().max(60),
      labels: z.record(z.string(), z.string()).default({}),
      guest: z.enum(['none', 'off', 'on']).default('none')
    })
  ),
  after: z.string().nullish()
});
type Thing = z.infer<typeof thingsSchema>['things'][number];

const measuresSchema = z.object({
  measures: z.array(
    z.object({
      kind: z.string(),
      measure: z.string().min(1).max(100),
      title: z.string().min(1).max(120),
      about: z.string().max(1000).default(''),
      unit: z.string().max(40),
      behaviour: z.enum(['gauge', 'delta', 'cumulative']),
      everySeconds: z.number().int().positive(),
      lateSeconds: z.number().int().nonnegative(),
      recommended: z.boolean().default(true),
      level: z.enum(['host', 'guest']).default('host')
    })
  )
});

const measurementsSchema = z.object({
  measurements: z.array(
    z.object({
      measure: z.string(),
      series: z.array(
        z.object({
          dimensions: z.record(z.string(), z.string()).default({}),
          times: z.array(z.unknown()),
          values: z.array(z.unknown())
        })
      )
    })
  )
});
type Measurements = z.infer<typeof measurementsSchema>;

/**
 * Ostro: a token that runs out, a list of things in each subscription of a tenant, one request a thing for several of its measurements, some of them hours late.
 *
 * @example const found = await ostroProvider(clock).discover(access)
 */
export function ostroProvider(clock: Clock): Provider {
  const calls = new OstroCalls(clock);
  return {
    name: 'Ostro',
    guide: {
      rights: [
        { right: 'inventory.read', why: 'to find things and what is measured of them' },
        { right: 'measurements.read', why: 'to read what was measured, on every kind of thing' },
        { right: 'events.read', why: 'to hear of what happens, such as a replication that stalls', optional: true },
        { right: 'exports.make', why: 'to fetch the lines that things write', optional: true },
        { right: 'charges.read', why: 'to read what things cost', optional: true },
        { right: 'guests.enable', why: 'to switch guest-level measures on from here', optional: true },
        { right: 'operations.run', why: 'to restart, stop, start and change things from here', optional: true }
      ],
      steps: [
        'At Ostro, register a client for Bussola in your tenant.',
        'Give it the roles below on the whole tenant, or on each subscription.',
        'Enter its id and secret here, once; Bussola fetches its own tokens.'
      ],
      endpointLabel: 'Address of Ostro’s interface',
      keyLabel: 'Client id',
      secretLabel: 'Client secret'
    },
    reach: times(30, day),
    historyPiece: day,
    requestsPerPull: (resources) => resources,
    pricePerThousandRequests: 0.01,
    requestsPerFeed: 3,
    pricePerGigabyteOfLines: 0.3,
    testAccess: (access) => testAccess(clock, calls, access),
    discover: (access) => discover(calls, access),
    describeMetrics: async (access) => {
      const { measures } = await calls.get(access, '/v2/measures', measuresSchema);
      return measures.map(asMetric);
    },
    fetch: (access, wanted, span) => fetchPages(calls, access, wanted, span),
    events: (access) => Promise.resolve([{ name: 'events', follow: (cursor) => ostroEvents(calls, access, cursor) }]),
    lines: (access) => ostroLines(calls, clock, access),
    bills: (access) => ostroBills(calls, access),
    acts: (access) => ostroActs(calls, access),
    enableGuest: async (access, resource) => {
      await calls.get(access, `/v2/guest/${pathOf(resource)}`, z.unknown(), 'POST');
    }
  };
}

async function discover(calls: OstroCalls, access: ProviderAccess): Promise<FoundResource[]> {
  const { subscriptions } = await calls.get(access, '/v2/tenant', tenantSchema);
  const found: FoundResource[] = [];
  for (const { id, name } of subscriptions)
    for (const thing of await thingsOf(calls, access, id))
      found.push({
        providerId: thing.uri,
        name: thing.title,
        type: thing.kind,
        service: serviceOfType(thing.kind),
        region: thing.location,
        tags: { ...thing.labels, subscription: name },
        guest: thing.guest,
        formerNames: []
      });
  return found;
}

async function thingsOf(calls: OstroCalls, access: ProviderAccess, subscription: string): Promise<Thing[]> {
  const found: Thing[] = [];
  const seen = new Set<string>();
  for (let after = ''; ;) {
    const query = after === '' ? '' : `?after=${encodeURIComponent(after)}`;
    const page = await calls.get(
      access,
      `/v2/subscriptions/${encodeURIComponent(subscription)}/things${query}`,
      thingsSchema
    );
    found.push(...page.things);
    if (!page.after || seen.has(page.after)) return found;
    seen.add((after = page.after));
  }
}

const asMetric = (measure: z.infer<typeof measuresSchema>['measures'][number]): FoundMetric => ({
  name: metricOf(measure.kind, measure.measure),
  title: measure.title,
  description: measure.about,
  unit: measure.unit,
  kind: measure.behaviour,
  shape: 'single',
  resourceType: measure.kind,
  service: serviceOfType(measure.kind),
  recommended: measure.recommended,
  level: measure.level,
  samplingMs: measure.everySeconds * 1000,
  delayMs: measure.lateSeconds * 1000
});

async function* fetchPages(
  calls: OstroCalls,
  access: ProviderAccess,
  wanted: readonly WantedResource[],
  { from, to }: Range
): AsyncGenerator<FetchedPage> {
  for (const { providerId, metrics } of wanted) {
    const kind = providerId.split('/')[1] ?? '';
    const names = metrics.map((metric) => measureOf(kind, metric)).join(',');
    const query = new URLSearchParams({ names, since: textFromInstant(from), until: textFromInstant(to) });
    const answer = await calls.get(
      access,
      `/v2/measurements/${pathOf(providerId)}?${query.toString()}`,
      measurementsSchema
    );
    yield pageOf(answer, providerId, kind);
  }
}

function pageOf({ measurements }: Measurements, resource: string, kind: string): FetchedPage {
  const found: FetchedSeries[] = [];
  let refused = 0;
  let refusedExample: string | null = null;
  for (const { measure, series } of measurements)
    for (const { dimensions, times, values } of series) {
      const sound: RawPoint[] = [];
      for (const [i, seconds] of times.entries()) {
        const point = reading((seconds as number) * 1000, values[i] as number);
        if (typeof seconds === 'number' && isSound(point)) sound.push(point);
        else {
          refused++;
          refusedExample ??= `${measure} of ${resource}: ${JSON.stringify([seconds, values[i]]).slice(0, 80)}`;
        }
      }
      if (sound.length > 0)
        found.push({ resource, metric: metricOf(kind, measure), labels: dimensions, points: columnsOf(sound) });
    }
  return { series: found, refused, refusedExample };
}

/** Tries every right on its own; measurements kind by kind, since rights may differ between them. */
async function testAccess(clock: Clock, calls: OstroCalls, access: ProviderAccess): Promise<AccessCheck[]> {
  const tenant = () => calls.get(access, '/v2/tenant', tenantSchema);
  const { test, isReachable } = await accessTest(new URL(access.endpoint).host, tenant);
  if (!isReachable) return test.checks;
  const found = await test.right(
    'list resources',
    async () => ({ resources: await discover(calls, access), ...(await tenant()) }),
    ({ resources, subscriptions }) =>
      `May list resources: ${resources.length} found in ${subscriptions.length} subscriptions.`
  );
  const kinds = [...new Set(found?.resources.map(({ type }) => type))];
  const now = clock.now();
  const readable: string[] = [];
  for (const kind of kinds) {
    const one = found?.resources.find(({ type }) => type === kind);
    const query = new URLSearchParams({
      names: '',
      since: textFromInstant(before(now, minute)),
      until: textFromInstant(now)
    });
    const service = serviceOfType(kind);
    const read = () =>
      calls.get(access, `/v2/measurements/${pathOf(one?.providerId ?? '')}?${query.toString()}`, measurementsSchema);
    const missing = test.checks.length;
    await test.right(`read metrics of ${service}`, read, () => `May read metrics of ${service}.`);
    // What may be read is told in one line; what may not, each in its own.
    if (test.checks[missing]?.passed) readable.push(...test.checks.splice(missing, 1).map(() => service));
  }
  if (readable.length > 0) {
    const place = test.checks.findIndex(({ name }) => name === 'list resources') + 1;
    test.checks.splice(place, 0, {
      name: 'read metrics',
      passed: true,
      says: `May read metrics of ${readable.join(', ')}.`,
      remedy: null
    });
  }
  await test.right(
    'hear of events',
    () => eventsAfter(calls, access, null),
    ({ events: { length } }) => `May hear of events: ${length} so far.`
  );
  await test.right(
    'read lines',
    () => thingsThatWrite(calls, access),
    ({ things: { length } }) => `May read lines: ${length} things write some.`
  );
  await test.right(
    'read bills',
    () => tryCharges(calls, access, dayAt(before(now, times(3, day)))),
    ({ currency }) => `May read bills, which are in ${currency}.`
  );
  await test.right(
    'act',
    () => tryOperations(calls, access),
    () => 'May restart, stop, start and change things.'
  );
  return test.checks;
}

const pathOf = (uri: string): string => uri.split('/').map(encodeURIComponent).join('/');
