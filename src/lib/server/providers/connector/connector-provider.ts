import { z } from 'zod';
import { dateOf, dayAt, dayOf, type BillEntry, type DayNumber } from '$lib/core/cost';
import type { Connector } from '$lib/core/connector';
import { before, day, hour, minute, range, textFromInstant, times, type Range } from '$lib/core/time';
import type { BillPage, Bills } from '../port/bills';
import { accessTest } from '../port/checks';
import { malformed } from '../port/exchange';
import type {
  AccessCheck,
  EventFeed,
  FetchedPage,
  FoundEvent,
  FoundMetric,
  FoundResource,
  LineFeed,
  Provider,
  ProviderAccess,
  UnreadableEvent,
  WantedResource
} from '../port/provider';
import { ConnectorCalls, type ConnectorParts } from './connector-calls';
import { connectorLines, feedsOf } from './connector-lines';
import type { Bindings } from './expressions/evaluate';

/**
 * A provider as a connector describes it.
 *
 * @example const found = await connectorProvider({ clock, connector, pool }).discover(access)
 */
export function connectorProvider(parts: ConnectorParts): Provider {
  const { connector } = parts;
  const { guide, limits, points, events, lines, bills } = connector;
  const calls = new ConnectorCalls(parts);
  return {
    name: connector.name,
    guide: {
      ...{ rights: guide.rights, steps: guide.steps },
      ...{ endpointLabel: guide.endpoint, keyLabel: guide.key, secretLabel: guide.secret }
    },
    limits: { atOnce: limits.atOnce, perSecond: limits.perSecond, burst: Math.max(1, Math.ceil(limits.perSecond * 2)) },
    reach: times(limits.reachDays, day),
    historyPiece: times(limits.historyHours, hour),
    requestsPerPull: (resources, series) =>
      points.by === 'resource'
        ? resources
        : Math.max(
            1,
            Math.ceil(series / points.atMost),
            // A metric has one series of a resource at least: there are as many metrics as series of the average one.
            points.by === 'metric' && resources > 0 ? Math.ceil(series / resources) : 0
          ),
    pricePerThousandRequests: limits.pricePerThousandRequests,
    ...(lines && { requestsPerFeed: lines.order === undefined ? 1 : 3 }),
    pricePerGigabyteOfLines: limits.pricePerGigabyteOfLines,
    testAccess: (access) => testAccess(parts, calls, access),
    discover: (access) => discover(connector, calls, access),
    describeMetrics: (access) => describeMetrics(connector, calls, access),
    fetch: (access, wanted, span) => fetchPoints(connector, calls, access, wanted, span),
    ...(events && {
      events: (access): Promise<EventFeed[]> =>
        Promise.resolve([{ name: 'events', follow: (cursor) => eventsAfter(events, calls, access, cursor) }])
    }),
    ...(lines && { lines: (access): Promise<LineFeed[]> => connectorLines(parts, calls, access) }),
    ...(bills && { bills: (access): Bills => billsOf(bills, calls, access) })
  };
}

async function discover(
  { resources }: Connector,
  calls: ConnectorCalls,
  access: ProviderAccess
): Promise<FoundResource[]> {
  const all: FoundResource[] = [];
  for await (const { found } of calls.pagesOver(access, resources, { as: 'resources' }))
    if (found.as === 'resources') all.push(...withinReason(all, found.items));
  return all;
}

async function describeMetrics(
  { metrics }: Connector,
  calls: ConnectorCalls,
  access: ProviderAccess
): Promise<FoundMetric[]> {
  const all: FoundMetric[] = [];
  for await (const { found } of calls.pagesOver(access, metrics, { as: 'metrics' }))
    if (found.as === 'metrics') all.push(...withinReason(all, found.items));
  return all;
}

/** Resources or metrics of one account at most. */
const mostListed = 100_000;

/** @throws ProviderError (malformed) where a list is longer than any account's */
function withinReason<T>(listed: readonly T[], more: readonly T[]): readonly T[] {
  if (listed.length + more.length > mostListed)
    throw malformed(`The provider’s list has more than ${mostListed} things.`);
  return more;
}

/** What single requests are for, by what a connector says. */
function* requestsFor({ by, atMost }: Connector['points'], wanted: readonly WantedResource[]): Generator<Bindings> {
  if (by === 'series') {
    const all = wanted.flatMap(({ providerId, metrics }) =>
      metrics.map((metric) => ({ resource: providerId, metric }))
    );
    for (const series of piecesOf(all, atMost)) yield { series };
    return;
  }
  if (by === 'resource') {
    for (const { providerId, metrics } of wanted)
      for (const some of piecesOf(metrics, atMost)) yield { resource: providerId, metrics: some };
    return;
  }
  const byMetric = new Map<string, string[]>();
  for (const { providerId, metrics } of wanted)
    for (const metric of metrics) byMetric.set(metric, [...(byMetric.get(metric) ?? []), providerId]);
  for (const [metric, resources] of byMetric)
    for (const some of piecesOf(resources, atMost)) yield { metric, resources: some };
}

function* piecesOf<T>(all: readonly T[], most: number): Generator<readonly T[]> {
  for (let first = 0; first < all.length; first += most) yield all.slice(first, first + most);
}

async function* fetchPoints(
  { points }: Connector,
  calls: ConnectorCalls,
  access: ProviderAccess,
  wanted: readonly WantedResource[],
  { from, to }: Range
): AsyncGenerator<FetchedPage> {
  const span = { from: textFromInstant(from), to: textFromInstant(to) };
  for (const asked of requestsFor(points, wanted))
    for await (const { found } of calls.pages(
      access,
      points,
      { as: 'points', time: points.time },
      { ...asked, ...span }
    ))
      if (found.as === 'points') yield found.items;
}

async function* eventsAfter(
  events: NonNullable<Connector['events']>,
  calls: ConnectorCalls,
  access: ProviderAccess,
  cursor: string | null
): AsyncGenerator<FoundEvent | UnreadableEvent> {
  const after = cursor === null ? {} : { cursor };
  for await (const { found } of calls.pages(access, events, { as: 'events' }, after))
    if (found.as === 'events') yield* found.items;
}

const billsOf = (bills: NonNullable<Connector['bills']>, calls: ConnectorCalls, access: ProviderAccess): Bills => ({
  settlesAfter: bills.settlesAfterDays,
  async *read(from, to, signal): AsyncGenerator<BillPage> {
    for (let first = from; first < to && !signal.aborted; first = (first + bills.daysAtOnce) as DayNumber) {
      const end = Math.min(to, first + bills.daysAtOnce) as DayNumber;
      const { entries, through } = await billOf(bills, calls, access, first, end);
      if (through <= first) return;
      yield { kind: 'entries', from: first, to: through, entries };
    }
  }
});

/** The bill of some days, and the day after the last that it has wholly. */
async function billOf(
  bills: NonNullable<Connector['bills']>,
  calls: ConnectorCalls,
  access: ProviderAccess,
  from: DayNumber,
  to: DayNumber
): Promise<{ entries: BillEntry[]; through: DayNumber }> {
  const entries: BillEntry[] = [];
  let through = from;
  const days = { day: dateOf(from), from: dateOf(from), to: dateOf(to) };
  for await (const { found, taken } of calls.pages(access, bills, { as: 'bills' }, days, { through: bills.through })) {
    if (found.as === 'bills') entries.push(...found.items);
    through = throughOf(taken['through'], from, to);
  }
  return { entries, through };
}

function throughOf(given: unknown, from: DayNumber, to: DayNumber): DayNumber {
  if (given === undefined || given === null) return from;
  const day = z.iso.date().safeParse(given);
  if (!day.success) throw malformed('What the connector takes for the last complete day of a bill is no date.');
  return Math.min(to, dayOf(day.data) + 1) as DayNumber;
}

/** Tries one part after the other and says of each what was seen. */
async function testAccess(
  { clock, connector }: ConnectorParts,
  calls: ConnectorCalls,
  access: ProviderAccess
): Promise<AccessCheck[]> {
  const { events, lines, bills } = connector;
  const list = () => discover(connector, calls, access);
  const { test, isReachable } = await accessTest(new URL(access.endpoint).host, list);
  if (!isReachable) return test.checks;
  const resources = await test.right('list resources', list, ({ length }) => `May list resources: ${length} found.`);
  const metrics = await test.right(
    'list metrics',
    () => describeMetrics(connector, calls, access),
    ({ length }) => `May list metrics: ${length} found.`
  );
  const now = clock.now();
  const first = resources?.find(({ type }) => metrics?.some(({ resourceType }) => resourceType === type));
  const metric = metrics?.find(({ resourceType }) => resourceType === first?.type);
  if (first !== undefined && metric !== undefined)
    await test.right(
      'read metrics',
      async () => {
        const wanted = [{ providerId: first.providerId, metrics: [metric.name] }];
        for await (const _page of fetchPoints(connector, calls, access, wanted, range(before(now, minute), now)))
          return;
      },
      () => 'May read metrics.'
    );
  if (events)
    await test.right(
      'hear of events',
      async () => {
        for await (const _event of eventsAfter(events, calls, access, null)) return;
      },
      () => 'May hear of events.'
    );
  if (lines)
    await test.right(
      'read lines',
      () => feedsOf(lines, calls, access),
      ({ length }) => `May read lines: ${length} resources write some.`
    );
  if (bills) {
    const billed = dayAt(before(now, times(3, day)));
    await test.right(
      'read bills',
      () => billOf(bills, calls, access, billed, (billed + 1) as DayNumber),
      ({ entries }) => `May read bills: ${entries.length} entries of a day.`
    );
  }
  return test.checks;
}
