import { z } from 'zod';
import { dayAt } from '$lib/core/cost';
import { serviceOfType } from '$lib/core/services';
import {
  before,
  day,
  hour,
  instantFromText,
  minute,
  range,
  textFromInstant,
  times,
  type Clock,
  type Range
} from '$lib/core/time';
import { accessTest } from '../port/checks';
import { malformed } from '../port/exchange';
import { columnsOf, isSound, type RawPoint } from '../port/points';
import type {
  AccessCheck,
  FetchedPage,
  FetchedSeries,
  Provider,
  ProviderAccess,
  WantedResource
} from '../port/provider';
import { ProviderError } from '../port/provider';
import { levanteActs, tryActing } from './acts';
import { levanteBills, tryBill } from './bills';
import { levanteLines, lineSources } from './lines';
import { callLevante } from './signed';

const resourcesSchema = z.object({
  account: z.string(),
  resources: z.array(
    z.object({
      id: z.string().min(1).max(200),
      name: z.string().min(1).max(200),
      type: z.string().min(1).max(60),
      region: z.string().max(60),
      tags: z.record(z.string(), z.string()).default({}),
      guest: z.enum(['none', 'off', 'on']).default('none'),
      formerNames: z.array(z.object({ name: z.string(), until: z.string() })).default([])
    })
  )
});

const metricsSchema = z.object({
  metrics: z.array(
    z.object({
      name: z.string().min(1).max(200),
      title: z.string().min(1).max(120),
      description: z.string().max(1000).default(''),
      kind: z.enum(['gauge', 'delta', 'cumulative']),
      unit: z.string().max(40),
      shape: z.enum(['summary', 'single']),
      recommended: z.boolean().default(true),
      level: z.enum(['host', 'guest']).default('host'),
      samplingSeconds: z.number().int().positive(),
      delaySeconds: z.number().int().nonnegative(),
      resourceType: z.string()
    })
  )
});

/** Points are looked at one by one, so that one bad value costs itself and not its page. */
const pageSchema = z.object({
  series: z.array(
    z.object({
      index: z.number().int().nonnegative(),
      labels: z.record(z.string(), z.string()).default({}),
      points: z.array(z.unknown())
    })
  ),
  next: z.string().nullable()
});
type Page = z.infer<typeof pageSchema>;

/** Series in one request at most, as Levante states. */
const mostSeries = 500;

/**
 * Levante: signed requests, resources and metrics as lists, points of many series in one batched fetch, paged by token.
 *
 * @example const pages = levanteProvider(clock).fetch(access, wanted, range(from, to))
 */
export const levanteProvider = (clock: Clock): Provider => ({
  name: 'Levante',
  guide: {
    rights: [
      { right: 'resources.list', why: 'to find resources and the metrics they report' },
      { right: 'metrics.read', why: 'to fetch their points' },
      { right: 'lines.read', why: 'to fetch the lines that resources write', optional: true },
      { right: 'bills.read', why: 'to read what resources cost', optional: true },
      { right: 'guests.enable', why: 'to switch guest-level metrics on from here', optional: true },
      { right: 'resources.act', why: 'to restart, stop, start and change resources from here', optional: true }
    ],
    steps: [
      'At Levante, make a key for Bussola alone.',
      'Give it the rights below and no others.',
      'Enter its id and secret here, once.'
    ],
    endpointLabel: 'Address of Levante’s interface',
    keyLabel: 'Key id',
    secretLabel: 'Secret'
  },
  reach: times(400, day),
  historyPiece: times(6, hour),
  requestsPerPull: (_resources, series) => Math.max(1, Math.ceil(series / mostSeries)),
  pricePerThousandRequests: 0.01,
  requestsPerFeed: 1,
  pricePerGigabyteOfLines: 0.5,
  testAccess: (access) => testAccess(clock, access),
  discover: async (access) => {
    const { resources } = await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema);
    return resources.map(({ id, formerNames, ...resource }) => ({
      ...resource,
      providerId: id,
      service: serviceOfType(resource.type),
      formerNames: formerNames.map(({ name, until }) => ({ name, until: instantFromText(until) }))
    }));
  },
  describeMetrics: async (access) => {
    const { metrics } = await callLevante(clock, access, 'GET', '/v1/metrics', null, metricsSchema);
    return metrics.map(({ samplingSeconds, delaySeconds, ...metric }) => ({
      ...metric,
      service: serviceOfType(metric.resourceType),
      samplingMs: samplingSeconds * 1000,
      delayMs: delaySeconds * 1000
    }));
  },
  fetch: (access, wanted, span) => fetchPages(clock, access, wanted, span),
  lines: (access) =>
    levanteLines(clock, access, async () => {
      const { resources } = await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema);
      return new Map(resources.map(({ id, type }) => [id, type]));
    }),
  bills: (access) => levanteBills(clock, access),
  acts: (access) => levanteActs(clock, access),
  enableGuest: async (access, resource) => {
    await callLevante(clock, access, 'POST', `/v1/resources/${encodeURIComponent(resource)}/guest`, {}, z.unknown());
  }
});

interface Name {
  readonly resource: string;
  readonly metric: string;
}

async function* fetchPages(
  clock: Clock,
  access: ProviderAccess,
  wanted: readonly WantedResource[],
  { from, to }: Range
): AsyncGenerator<FetchedPage> {
  const names = wanted.flatMap(({ providerId, metrics }) =>
    metrics.map((metric) => ({ resource: providerId, metric }))
  );
  for (let first = 0; first < names.length; first += mostSeries) {
    const some = names.slice(first, first + mostSeries);
    let page: string | null = null;
    do {
      const body = { series: some, from: textFromInstant(from), to: textFromInstant(to), page };
      const answer: Page = await callLevante(clock, access, 'POST', '/v1/points', body, pageSchema);
      if (answer.next !== null && answer.next === page)
        throw malformed('The provider’s pages lead back to themselves.');
      yield pageOf(answer, some);
      page = answer.next;
    } while (page !== null);
  }
}

function pageOf({ series }: Page, wanted: readonly Name[]): FetchedPage {
  const found: FetchedSeries[] = [];
  let refused = 0;
  let refusedExample: string | null = null;
  for (const { index, labels, points } of series) {
    const wantedOne = wanted[index];
    if (!wantedOne) throw malformed(`The provider answered for a series nobody wantedOne for (number ${index}).`);
    const sound: RawPoint[] = [];
    for (const point of points) {
      const [seconds, ...rest] = Array.isArray(point) ? (point as unknown[]) : [];
      const candidate = [Number.isInteger(seconds) ? (seconds as number) * 1000 : null, ...rest];
      if (isSound(candidate)) sound.push(candidate);
      else {
        refused++;
        refusedExample ??= `${wantedOne.metric} of ${wantedOne.resource}: ${JSON.stringify(point).slice(0, 80)}`;
      }
    }
    if (sound.length > 0) found.push({ ...wantedOne, labels, points: columnsOf(sound) });
  }
  return { series: found, refused, refusedExample };
}

/** Tries one right after the other and says of each what was seen; what cannot be tried after a failure is left out. */
async function testAccess(clock: Clock, access: ProviderAccess): Promise<AccessCheck[]> {
  const list = () => callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema);
  const { test, isReachable } = await accessTest(new URL(access.endpoint).host, list);
  if (!isReachable) return test.checks;
  const found = await test.right(
    'list resources',
    list,
    ({ resources, account }) => `May list resources: ${resources.length} found in ${account}.`
  );
  await test.right(
    'read metrics',
    () => tryReading(clock, access, found?.resources[0]?.id),
    () => 'May read metrics.'
  );
  await test.right(
    'read lines',
    () => lineSources(clock, access),
    ({ sources }) => `May read lines: ${sources.length} resources write some.`
  );
  await test.right(
    'read bills',
    () => tryBill(clock, access, dayAt(before(clock.now(), times(3, day)))),
    ({ currency }) => `May read bills, which are in ${currency}.`
  );
  await test.right(
    'act',
    () => tryActing(clock, access),
    () => 'May restart, stop, start and change resources.'
  );
  return test.checks;
}

/** Requests a minute of one series; without a known resource, of none that exists, which tells of the right all the same. */
async function tryReading(clock: Clock, access: ProviderAccess, resource = 'none'): Promise<void> {
  const now = clock.now();
  const span = range(before(now, minute), now);
  const body = {
    series: [{ resource, metric: 'machine.processor.use' }],
    from: textFromInstant(span.from),
    to: textFromInstant(span.to),
    page: null
  };
  try {
    await callLevante(clock, access, 'POST', '/v1/points', body, pageSchema);
  } catch (error) {
    if (!(error instanceof ProviderError && error.code === 'refused' && resource === 'none')) throw error;
  }
}
