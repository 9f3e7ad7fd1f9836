import { createParser } from 'eventsource-parser';
import { z } from 'zod';
import { meaningOf, readExposition, type ExposedSample, type Exposition } from '$lib/core/openmetrics';
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
  type Instant,
  type Range
} from '$lib/core/time';
import { accessTest } from '../checks';
import { exchange, exchangeJson, malformed } from '../exchange';
import { columnsOf, isSound, reading, type RawPoint } from '../points';
import {
  ProviderError,
  type AccessCheck,
  type FetchedPage,
  type FoundEvent,
  type FoundMetric,
  type FoundResource,
  type Provider,
  type ProviderAccess,
  type WantedResource
} from '../provider';
import { identityOf } from './identity';

const clustersSchema = z.object({
  clusters: z.array(
    z.object({
      id: z.string().min(1).max(100),
      title: z.string().min(1).max(200),
      location: z.string().max(60),
      workloadMetrics: z.boolean()
    })
  )
});
type Cluster = z.infer<typeof clustersSchema>['clusters'][number];

const eventSchema = z.object({
  at: z.string(),
  subject: z.record(z.string(), z.string()),
  kind: z.string().max(60),
  text: z.string().max(1000)
});

/** A page says what is true now. Missed longer than this, the minutes that the cluster kept are asked for. */
const keptBehind = times(3, minute);
const mostKept = times(12, hour);

/**
 * Maestro: each cluster has an OpenMetrics page to be scraped, keeps its minutes for a while, and tells of events in a stream.
 *
 * @example const found = await maestroProvider(clock).discover(access)
 */
export const maestroProvider = (clock: Clock): Provider => ({
  name: 'Maestro',
  guide: {
    rights: [
      { right: 'clusters.list', why: 'to find clusters' },
      { right: 'metrics.scrape', why: 'to read their pages' },
      { right: 'events.follow', why: 'to hear of restarts and lost gateways', optional: true },
      { right: 'workload-metrics.enable', why: 'to switch workload-level metrics on from here', optional: true }
    ],
    steps: [
      'At Maestro, make a token for Bussola alone.',
      'Give it the rights below and no others.',
      'Enter it here, once, under a name you will know it by.'
    ],
    endpointLabel: 'Address of Maestro’s interface',
    keyLabel: 'Name of the token',
    secretLabel: 'Token'
  },
  reach: times(15, day),
  historyPiece: times(4, hour),
  requestsPerPull: () => 3,
  pricePerThousandRequests: 0,
  testAccess: (access) => testAccess(clock, access),
  discover: async (access) => {
    const found: FoundResource[] = [];
    for (const cluster of await clustersOf(clock, access))
      found.push(...resourcesOf(cluster, await scrape(clock, access, cluster)));
    return found;
  },
  describeMetrics: async (access) => {
    const metrics = new Map<string, FoundMetric>();
    for (const cluster of await clustersOf(clock, access))
      for (const metric of metricsOf(await scrape(clock, access, cluster))) metrics.set(metric.name, metric);
    return [...metrics.values()];
  },
  fetch: (access, wanted, span) => fetchPages(clock, access, wanted, span),
  events: async (access) =>
    (await clustersOf(clock, access)).map(({ id }) => ({
      name: id,
      follow: (cursor, signal) => follow(access, id, cursor, signal)
    })),
  enableGuest: async (access, resource) => {
    await exchangeJson(
      clock,
      access,
      `/clusters/${encodeURIComponent(resource)}/workload-metrics`,
      authorised(access, 'POST'),
      z.unknown()
    );
  }
});

const authorised =
  ({ secret }: ProviderAccess, method = 'GET') =>
  () => ({ method, headers: { authorization: `Bearer ${secret}` } });

async function clustersOf(clock: Clock, access: ProviderAccess): Promise<Cluster[]> {
  return (await exchangeJson(clock, access, '/clusters', authorised(access), clustersSchema)).clusters;
}

async function scrape(
  clock: Clock,
  access: ProviderAccess,
  { id }: Pick<Cluster, 'id'>,
  query = ''
): Promise<Exposition> {
  const path = `/clusters/${encodeURIComponent(id)}/${query === '' ? 'metrics' : 'kept'}${query}`;
  return access.guard.run(async () => {
    // The guard of one call inside another's would count it twice: this one only tries again when the page is cut short.
    const text = await exchange(
      clock,
      { ...access, guard: { meter: access.guard.meter, run: (call) => call() } },
      path,
      authorised(access)
    );
    const read = readExposition(text);
    if (!read.complete) throw malformed(`The page of ${id} has no end: a part of it is missing.`);
    return read;
  });
}

/** The resources a page speaks of: its cluster, and the node, workload or gateway that its labels name. */
function resourcesOf(cluster: Cluster, { samples }: Exposition): FoundResource[] {
  const guest = cluster.workloadMetrics ? 'on' : 'off';
  const found = new Map<string, FoundResource>([
    [
      cluster.id,
      {
        providerId: cluster.id,
        name: cluster.title,
        type: 'cluster',
        service: serviceOfType('cluster'),
        region: cluster.location,
        tags: {},
        guest,
        formerNames: []
      }
    ]
  ]);
  for (const { labels, family } of samples) {
    const { providerId, name, type } = identityOf(cluster.id, labels);
    if (providerId === cluster.id) continue;
    const known = found.get(providerId);
    const told = family.type === 'info' ? labels : {};
    const tags = {
      ...known?.tags,
      cluster: cluster.title,
      ...(labels['namespace'] === undefined ? {} : { namespace: labels['namespace'] }),
      ...told
    };
    found.set(providerId, {
      providerId,
      name,
      type,
      service: serviceOfType(type),
      region: cluster.location,
      tags,
      guest: type === 'workload' ? 'on' : 'none',
      formerNames: []
    });
  }
  return [...found.values()];
}

/** The metrics of a page, each with the type of resource whose labels it has. */
function metricsOf({ samples }: Exposition): FoundMetric[] {
  const found = new Map<string, FoundMetric>();
  for (const sample of samples) {
    const meaning = meaningOf(sample);
    if (meaning === null || found.has(meaning.metric)) continue;
    const { type } = identityOf('', sample.labels);
    found.set(meaning.metric, {
      name: meaning.metric,
      title: titleOf(meaning.metric),
      description: sample.family.help,
      unit: meaning.unit,
      kind: meaning.kind,
      shape: 'single',
      resourceType: type,
      service: serviceOfType(type),
      recommended: true,
      level: 'host',
      samplingMs: 15_000,
      delayMs: 0
    });
  }
  return [...found.values()];
}

/** @example titleOf('workload_memory_bytes') // 'Workload memory' */
function titleOf(metric: string): string {
  const words = metric.replace(/_(bytes|seconds|ratio)$/, '').replaceAll('_', ' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}

async function* fetchPages(
  clock: Clock,
  access: ProviderAccess,
  wanted: readonly WantedResource[],
  span: Range
): AsyncGenerator<FetchedPage> {
  const wantedMetrics = new Map(wanted.map(({ providerId, metrics }) => [providerId, new Set(metrics)]));
  const clusters = [...new Set(wanted.map(({ providerId }) => providerId.split('/')[0] as string))];
  const now = clock.now();
  const isLive = now - span.to < keptBehind;
  const kept = isLive ? (span.to - span.from > keptBehind ? range(span.from, before(span.to, minute)) : null) : span;
  for (const id of clusters) {
    for (let to = kept?.to; kept && to && to > kept.from;) {
      const from = Math.max(kept.from, to - mostKept) as Instant;
      const query = new URLSearchParams({ since: textFromInstant(from), until: textFromInstant(to) });
      yield pageOf(await scrape(clock, access, { id }, `?${query.toString()}`), id, wantedMetrics, null);
      to = from;
    }
    if (isLive) {
      const at = clock.now();
      yield pageOf(await scrape(clock, access, { id }), id, wantedMetrics, at);
    }
  }
}

function pageOf(
  { samples, faults }: Exposition,
  cluster: string,
  wanted: ReadonlyMap<string, ReadonlySet<string>>,
  readAt: Instant | null
): FetchedPage {
  const found = new Map<
    string,
    { resource: string; metric: string; labels: Record<string, string>; points: RawPoint[] }
  >();
  let refused = faults.length;
  let refusedExample = faults[0] ? `line ${faults[0].line}, ${faults[0].reason}: ${faults[0].text}` : null;
  for (const sample of samples) {
    const meaning = meaningOf(sample);
    if (meaning === null) continue;
    const { providerId, rest } = identityOf(cluster, sample.labels);
    if (!wanted.get(providerId)?.has(meaning.metric)) continue;
    const point = reading(sample.at ?? readAt ?? 0, sample.value);
    if (!isSound(point)) {
      refused++;
      refusedExample ??= `line ${sample.line}: ${sample.name} ${sample.value}`;
      continue;
    }
    const key = seriesKey(sample, meaning.metric);
    let series = found.get(key);
    if (!series) found.set(key, (series = { resource: providerId, metric: meaning.metric, labels: rest, points: [] }));
    series.points.push(point);
  }
  return {
    series: [...found.values()].map(({ points, ...series }) => ({ ...series, points: columnsOf(points) })),
    refused,
    refusedExample
  };
}

const seriesKey = ({ labels }: ExposedSample, metric: string): string => `${metric}\n${JSON.stringify(labels)}`;

async function* follow(
  access: ProviderAccess,
  cluster: string,
  cursor: string | null,
  signal: AbortSignal
): AsyncGenerator<FoundEvent> {
  const url = `${access.endpoint.replace(/\/+$/, '')}/clusters/${encodeURIComponent(cluster)}/events`;
  const headers: Record<string, string> = { accept: 'text/event-stream', authorization: `Bearer ${access.secret}` };
  if (cursor !== null) headers['last-event-id'] = cursor.slice(cluster.length + 1);
  const response = await fetch(url, { headers, signal, redirect: 'error' });
  if (!response.ok || response.body === null)
    throw new ProviderError(
      response.status === 403 ? 'permission' : 'unavailable',
      `The stream of events of ${cluster} answered ${response.status}.`,
      'Grant events.follow to the token at Maestro, if you want events.'
    );
  const waiting: FoundEvent[] = [];
  const parser = createParser({
    onEvent: ({ id, data }) => {
      const event = eventSchema.safeParse(JSON.parse(data));
      if (!event.success || id === undefined) return;
      const { at, subject, kind, text } = event.data;
      waiting.push({
        id: `${cluster}/${id}`,
        at: instantFromText(at),
        resource: identityOf(cluster, subject).providerId,
        kind,
        text,
        subject
      });
    }
  });
  const decoder = new TextDecoder();
  for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(part, { stream: true }));
    for (let event = waiting.shift(); event; event = waiting.shift()) yield event;
  }
}

async function testAccess(clock: Clock, access: ProviderAccess): Promise<AccessCheck[]> {
  const list = () => clustersOf(clock, access);
  const { test, goOn } = await accessTest(new URL(access.endpoint).host, list);
  if (!goOn) return test.checks;
  const clusters = await test.right('list resources', list, ({ length }) => `May list clusters: ${length} found.`);
  const first = clusters?.[0];
  if (!first) return test.checks;
  await test.right(
    'read metrics',
    () => scrape(clock, access, first),
    ({ samples }) => `May read metrics: ${samples.length} lines on the page of ${first.title}.`
  );
  await test.right(
    'hear of events',
    () => hear(access, first.id),
    () => 'May hear of events.'
  );
  return test.checks;
}

/** Opens the stream of events and closes it again. */
async function hear(access: ProviderAccess, cluster: string): Promise<void> {
  const ending = new AbortController();
  const events = follow(access, cluster, null, ending.signal);
  try {
    await Promise.race([events.next(), new Promise((next) => setTimeout(next, 2000))]);
  } finally {
    ending.abort();
  }
}
