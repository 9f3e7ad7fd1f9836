import { z } from 'zod';
import { pointsOfLength, type BatchBlock, type SummaryPoints } from '$lib/core/series';
import { before, minute, range, textFromInstant, type Clock, type Instant, type Range } from '$lib/core/time';
import {
  ProviderError,
  type AccessCheck,
  type FetchedPage,
  type Provider,
  type ProviderAccess,
  type WantedSeries
} from '../provider';
import { callLevante } from './call';

const resourcesSchema = z.object({
  account: z.string(),
  resources: z.array(
    z.object({
      id: z.string().min(1).max(200),
      name: z.string().min(1).max(200),
      type: z.string().min(1).max(60),
      region: z.string().max(60),
      tags: z.record(z.string(), z.string()).default({})
    })
  )
});

const metricsSchema = z.object({
  metrics: z.array(
    z.object({
      name: z.string().min(1).max(200),
      title: z.string().min(1).max(120),
      description: z.string().max(1000).default(''),
      kind: z.string(),
      unit: z.string().max(40),
      shape: z.string(),
      samplingSeconds: z.number().int().positive(),
      delaySeconds: z.number().int().nonnegative(),
      resourceType: z.string()
    })
  )
});

/** Points are looked at one by one, so that one bad value costs itself and not its page. */
const pageSchema = z.object({
  series: z.array(z.object({ index: z.number().int().nonnegative(), points: z.array(z.unknown()) })),
  next: z.string().nullable()
});

/** Which service a resource type belongs to. */
const services: Readonly<Record<string, string>> = { machine: 'machines' };

/** Series in one request at most, as Levante states. */
const mostSeries = 500;

/**
 * Levante: signed requests, resources and metrics as lists, points of many series in one batched fetch, paged by token.
 *
 * @example const pages = levanteProvider(clock).fetch(access, series, range(from, to), now)
 */
export const levanteProvider = (clock: Clock): Provider => ({
  name: 'Levante',
  testAccess: (access) => testAccess(clock, access),
  discover: async (access) => {
    const { resources } = await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema);
    return resources.map(({ id, name, type, region, tags }) => ({
      providerId: id,
      name,
      type,
      service: services[type] ?? 'other',
      region,
      tags
    }));
  },
  describeMetrics: async (access) => {
    const { metrics } = await callLevante(clock, access, 'GET', '/v1/metrics', null, metricsSchema);
    return metrics.map(({ samplingSeconds, delaySeconds, ...metric }) => ({
      ...metric,
      service: services[metric.resourceType] ?? 'other',
      samplingMs: samplingSeconds * 1000,
      delayMs: delaySeconds * 1000
    }));
  },
  fetch: (access, series, span) => fetchPages(clock, access, series, span)
});

async function* fetchPages(
  clock: Clock,
  access: ProviderAccess,
  series: readonly WantedSeries[],
  { from, to }: Range
): AsyncGenerator<FetchedPage> {
  for (let first = 0; first < series.length; first += mostSeries) {
    const wanted = series.slice(first, first + mostSeries);
    const names = wanted.map(({ resource, metric }) => ({ resource, metric }));
    let page: string | null = null;
    do {
      const body = { series: names, from: textFromInstant(from), to: textFromInstant(to), page };
      const answer: z.infer<typeof pageSchema> = await callLevante(
        clock,
        access,
        'POST',
        '/v1/points',
        body,
        pageSchema
      );
      if (answer.next !== null && answer.next === page)
        throw new ProviderError('malformed', 'The provider’s pages lead back to themselves.', 'Tell the provider.');
      yield pageOf(answer, wanted);
      page = answer.next;
    } while (page !== null);
  }
}

function pageOf({ series }: z.infer<typeof pageSchema>, wanted: readonly WantedSeries[]): FetchedPage {
  const blocks: BatchBlock[] = [];
  let refused = 0;
  let refusedExample: string | null = null;
  for (const { index, points } of series) {
    const asked = wanted[index];
    if (!asked)
      throw new ProviderError(
        'malformed',
        `The provider answered for a series nobody asked for (number ${index}).`,
        'Tell the provider.'
      );
    const good = points.filter(isPoint).sort((a, b) => a[0] - b[0]);
    if (good.length < points.length) {
      refused += points.length - good.length;
      refusedExample ??= `${asked.metric} of ${asked.resource}: ${JSON.stringify(points.find((point) => !isPoint(point))).slice(0, 80)}`;
    }
    const distinct = good.filter((point, i) => i + 1 === good.length || point[0] !== good[i + 1]?.[0]);
    if (distinct.length > 0) blocks.push({ seriesId: asked.id, points: columnsOf(distinct) });
  }
  return { blocks, refused, refusedExample };
}

type Point = readonly [seconds: number, sum: number, count: number, min: number, max: number];

/** Five finite numbers, a count above zero, a time within the years we know. NaN and infinities never enter. */
const isPoint = (value: unknown): value is Point =>
  Array.isArray(value) &&
  value.length === 5 &&
  value.every((part) => typeof part === 'number' && Number.isFinite(part)) &&
  Number.isInteger(value[0]) &&
  value[0] > 0 &&
  value[0] < 253_402_300_799 &&
  value[2] > 0 &&
  value[3] <= value[4];

function columnsOf(points: readonly Point[]): SummaryPoints {
  const columns = pointsOfLength(points.length);
  points.forEach(([seconds, sum, count, min, max], i) => {
    columns.at[i] = seconds * 1000;
    columns.sum[i] = sum;
    columns.count[i] = count;
    columns.min[i] = min;
    columns.max[i] = max;
  });
  return columns;
}

/** Tries one right after the other and says of each what was seen; what cannot be tried after a failure is left out. */
async function testAccess(clock: Clock, access: ProviderAccess): Promise<AccessCheck[]> {
  const checks: AccessCheck[] = [];
  const pass = (name: AccessCheck['name'], says: string) => checks.push({ name, passed: true, says, remedy: null });
  const fail = (name: AccessCheck['name'], { message, remedy }: ProviderError) =>
    checks.push({ name, passed: false, says: message, remedy });
  const passedBefore = (fault: string) => {
    pass('reach', `${new URL(access.endpoint).host} answers.`);
    if (fault === 'clock') return;
    pass('clock', 'The clocks agree to within 5 min.');
    if (fault === 'signature') return;
    pass('signature', 'The key and its secret are accepted.');
  };
  let found: z.infer<typeof resourcesSchema> | null = null;
  try {
    found = await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema);
    passedBefore('none');
    pass('list resources', `May list resources: ${found.resources.length} found in ${found.account}.`);
  } catch (error) {
    if (!(error instanceof ProviderError)) throw error;
    const steps: Readonly<Partial<Record<string, AccessCheck['name']>>> = {
      clock: 'clock',
      signature: 'signature',
      permission: 'list resources'
    };
    const failed = steps[error.fault] ?? 'reach';
    if (failed !== 'reach') passedBefore(error.fault);
    fail(failed, error);
    if (error.fault !== 'permission') return checks;
  }
  try {
    await tryReading(clock, access, found?.resources[0]?.id);
    pass('read metrics', 'May read metrics.');
  } catch (error) {
    if (!(error instanceof ProviderError)) throw error;
    fail('read metrics', error);
  }
  return checks;
}

/** Asks for five minutes of one series; without a known resource, of none that exists, which tells of the right all the same. */
async function tryReading(clock: Clock, access: ProviderAccess, resource = 'none'): Promise<void> {
  const now: Instant = clock.now();
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
    if (!(error instanceof ProviderError && error.fault === 'refused' && resource === 'none')) throw error;
  }
}
