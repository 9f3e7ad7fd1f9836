import { promisify } from 'node:util';
import { gunzip } from 'node:zlib';
import type { Connector, ConnectorPart } from '$lib/core/connector';
import { dateOf, dayAt, dayOf, type DayNumber } from '$lib/core/cost';
import { Refusal } from '$lib/core/problem/problem';
import { before, instantFromText, minute, range, textFromInstant, times, type Clock } from '$lib/core/time';
import type { ConnectorPool } from '../providers/connector/connector-pool';
import { connectorProvider } from '../providers/connector/connector-provider';
import type { SeenExchange } from '../providers/connector/observed';
import type { Provider, ProviderAccess } from '../providers/port/provider';
import { ProviderError } from '../providers/port/provider';

/** Requests of one try at most, how long it may take, ms, and things of its result. */
const mostRequests = 60;
const patienceMs = 60_000;
const mostItems = 2000;
const mostSamples = 50_000;
/** Lines that are unpacked to be shown, bytes. */
const mostUnpacked = 8 * 1024 * 1024;

/** What a part is tried with; what is left out is chosen. */
export interface TryInputs {
  readonly resource?: string | undefined;
  readonly metrics?: readonly string[] | undefined;
  readonly from?: string | undefined;
  readonly to?: string | undefined;
  readonly cursor?: string | undefined;
}

/** What came of a try. */
export interface Tried {
  /** With all that was chosen. */
  readonly inputs: TryInputs;
  readonly exchanges: readonly SeenExchange[];
  /** What the answers were mapped to, as plain values; null where it failed. */
  readonly items: readonly unknown[] | null;
  /** Values that were refused because they are no numbers. */
  readonly refused: number;
  readonly problem: Refusal | null;
}

/** What a try is made with. */
export interface Trying {
  readonly clock: Clock;
  readonly pool: ConnectorPool;
}

/**
 * Tries one part of a connector: each request with its answer, and what it is mapped to. Nothing is stored.
 *
 * @example const { items } = await tryConnector({ clock, pool }, connector, access, 'resources', {})
 */
export async function tryConnector(
  { clock, pool }: Trying,
  connector: Connector,
  access: ProviderAccess,
  part: ConnectorPart,
  inputs: TryInputs
): Promise<Tried> {
  const exchanges: SeenExchange[] = [];
  const end = performance.now() + patienceMs;
  const observe = (one: SeenExchange): void => {
    exchanges.push(one);
    if (exchanges.length > mostRequests || performance.now() > end)
      throw new ProviderError(
        'malformed',
        `It takes more than ${mostRequests} requests or ${patienceMs / 1000} s: a try ends there.`,
        'Choose a shorter span, or look at how its pages go on.'
      );
  };
  const provider = connectorProvider({ clock, pool, connector, observe });
  const chosen: Chosen = { inputs, refused: 0 };
  try {
    const items = await itemsOf(clock, provider, access, part, chosen);
    return { inputs: chosen.inputs, refused: chosen.refused, exchanges, items, problem: null };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { inputs: chosen.inputs, refused: chosen.refused, exchanges, items: null, problem: error };
  }
}

/** What a try chose, and counted on its way. */
interface Chosen {
  inputs: TryInputs;
  refused: number;
}

async function itemsOf(
  clock: Clock,
  provider: Provider,
  access: ProviderAccess,
  part: ConnectorPart,
  chosen: Chosen
): Promise<unknown[]> {
  if (part === 'resources') return (await provider.discover(access)).slice(0, mostItems);
  if (part === 'metrics') return (await provider.describeMetrics(access)).slice(0, mostItems);
  if (part === 'points') return points(clock, provider, access, chosen);
  if (part === 'events') return events(provider, access, chosen);
  if (part === 'lines') return lines(clock, provider, access, chosen);
  return bills(clock, provider, access, chosen);
}

const none = (what: string): Refusal =>
  new Refusal('invalid', `The connector describes no ${what}.`, `Add the part “${what}” to its file.`);

/** A date is its beginning in UTC. */
const momentOf = (text: string) => instantFromText(text.length === 10 ? `${text}T00:00:00Z` : text);

/** The span that is tried: as it is given, or the minutes until now. */
function spanOf(clock: Clock, { from, to }: TryInputs, minutes: number) {
  const end = to === undefined || to === '' ? clock.now() : momentOf(to);
  const start = from === undefined || from === '' ? before(end, times(minutes, minute)) : momentOf(from);
  if (start >= end)
    throw new Refusal('invalid', 'The span has no length.', 'Enter a beginning that is before its end.', {
      path: ['inputs', 'from']
    });
  return range(start, end);
}

async function points(clock: Clock, provider: Provider, access: ProviderAccess, chosen: Chosen): Promise<unknown[]> {
  const { inputs } = chosen;
  const span = spanOf(clock, inputs, 15);
  let { resource, metrics } = inputs;
  if (!resource || !metrics || metrics.length === 0) {
    const resources = await provider.discover(access);
    const described = await provider.describeMetrics(access);
    const one = resource
      ? resources.find(({ providerId }) => providerId === resource)
      : resources.find(({ type }) => described.some(({ resourceType }) => resourceType === type));
    if (one === undefined)
      throw new Refusal(
        'invalid',
        resource ? `There is no resource with the id ${resource}.` : 'No resource has a metric.',
        'Look at the parts resources and metrics first.'
      );
    resource = one.providerId;
    metrics =
      metrics && metrics.length > 0
        ? metrics
        : described
            .filter(({ resourceType }) => resourceType === one.type)
            .map(({ name }) => name)
            .slice(0, 3);
  }
  chosen.inputs = { resource, metrics, from: textFromInstant(span.from), to: textFromInstant(span.to) };
  const found: unknown[] = [];
  let samples = 0;
  for await (const page of provider.fetch(access, [{ providerId: resource, metrics }], span)) {
    chosen.refused += page.refused;
    samples += page.series.reduce((sum, one) => sum + one.points.at.length, 0);
    if (samples > mostSamples)
      throw new Refusal('too-large', `There are more than ${mostSamples} samples.`, 'Choose a shorter span.');
    for (const { resource: of, metric, labels, points } of page.series)
      found.push({
        ...{ resource: of, metric, labels },
        points: [...points.at].map((at, i) => [
          ...[textFromInstant(at as never), points.sum[i], points.count[i], points.min[i], points.max[i]]
        ])
      });
  }
  return found.slice(0, mostItems);
}

async function events(provider: Provider, access: ProviderAccess, chosen: Chosen): Promise<unknown[]> {
  if (!provider.events) throw none('events');
  const { cursor } = chosen.inputs;
  const found: unknown[] = [];
  for (const feed of await provider.events(access))
    for await (const one of feed.follow(
      cursor === undefined || cursor === '' ? null : cursor,
      new AbortController().signal
    )) {
      found.push('at' in one ? { ...one, at: textFromInstant(one.at) } : { cannotBeRead: one });
      if (found.length >= mostItems) return found;
    }
  return found;
}

async function lines(clock: Clock, provider: Provider, access: ProviderAccess, chosen: Chosen): Promise<unknown[]> {
  if (!provider.lines) throw none('lines');
  const span = spanOf(clock, chosen.inputs, 15);
  const feeds = await provider.lines(access);
  const { resource } = chosen.inputs;
  const feed = resource ? feeds.find(({ name }) => name === resource) : feeds[0];
  if (feed === undefined && resource)
    throw new Refusal(
      'invalid',
      `Nothing of the name ${resource} writes lines.`,
      `Choose one of ${feeds.length}, or none.`
    );
  if (feed === undefined) return [];
  chosen.inputs = { resource: feed.name, from: textFromInstant(span.from), to: textFromInstant(span.to) };
  const found: unknown[] = [];
  for await (const { body, isGzip, until } of feed.read(span.from, span.to, new AbortController().signal)) {
    const text = isGzip ? await unpacked(body) : Buffer.from(body).toString('utf8');
    for (const row of text.split('\n')) if (row !== '' && found.length < mostItems) found.push(row);
    if (found.length >= mostItems) break;
    found.push({ completeUntil: textFromInstant(until) });
  }
  return found;
}

const gunzipped = promisify(gunzip);

async function unpacked(body: Uint8Array): Promise<string> {
  try {
    return (await gunzipped(body, { maxOutputLength: mostUnpacked })).toString('utf8');
  } catch (error) {
    throw new Refusal('malformed', 'The lines cannot be unpacked.', 'Look at isGzip, or choose a shorter span.', {
      cause: error
    });
  }
}

async function bills(clock: Clock, provider: Provider, access: ProviderAccess, chosen: Chosen): Promise<unknown[]> {
  if (!provider.bills) throw none('bills');
  const { from, to } = chosen.inputs;
  const until = to === undefined || to === '' ? dayAt(clock.now()) : dayOf(to.slice(0, 10));
  const first = from === undefined || from === '' ? ((until - 3) as DayNumber) : dayOf(from.slice(0, 10));
  chosen.inputs = { from: dateOf(first), to: dateOf(until) };
  const found: unknown[] = [];
  for await (const page of provider.bills(access).read(first, until, new AbortController().signal))
    if (page.kind === 'entries')
      for (const { item, day, billed, amortised, quantity } of page.entries)
        found.push({ ...{ day: dateOf(day), billed: billed / 1e6, amortised: amortised / 1e6, quantity }, ...item });
  return found.slice(0, mostItems);
}
