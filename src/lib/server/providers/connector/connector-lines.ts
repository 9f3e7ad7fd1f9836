import type { Connector } from '$lib/core/connector';
import { serviceOfType } from '$lib/core/services';
import { instantFromText, textFromInstant, type Instant } from '$lib/core/time';
import { malformed } from '../port/exchange';
import { completeUntil, onceMade } from '../port/lines';
import type { LineFeed, LinesPage, ProviderAccess } from '../port/provider';
import type { ConnectorCalls, ConnectorParts, Sent } from './connector-calls';
import type { Bindings } from './expressions/evaluate';
import type { FoundFeed } from './expressions/found';

type Lines = NonNullable<Connector['lines']>;

/** What writes lines, as it is listed. */
export async function feedsOf({ feeds }: Lines, calls: ConnectorCalls, access: ProviderAccess): Promise<FoundFeed[]> {
  const all: FoundFeed[] = [];
  for await (const { found } of calls.pages(access, feeds, { as: 'feeds' }, {}))
    if (found.as === 'feeds') all.push(...found.items);
  return all;
}

/** The lines of a connector: for each feed requested over a span, or ordered and fetched once they are made. */
export async function connectorLines(
  parts: ConnectorParts,
  calls: ConnectorCalls,
  access: ProviderAccess
): Promise<LineFeed[]> {
  const lines = parts.connector.lines as Lines;
  const feeds = await feedsOf(lines, calls, access);
  const isTyped = feeds.every(({ service, type }) => service !== undefined || type !== undefined);
  const types = isTyped ? new Map<string, string>() : await typesOf(parts.connector, calls, access);
  return feeds.map((feed) => ({
    name: feed.name,
    service: feed.service ?? serviceOfType(feed.type ?? types.get(feed.resource ?? '') ?? ''),
    resource: feed.resource,
    read: (from, to, signal) => linesOf(parts, lines, calls, access, feed, from, to, signal)
  }));
}

async function typesOf(
  { resources }: Connector,
  calls: ConnectorCalls,
  access: ProviderAccess
): Promise<Map<string, string>> {
  const types = new Map<string, string>();
  for await (const { found } of calls.pagesOver(access, resources, { as: 'resources' }))
    if (found.as === 'resources') for (const { providerId, type } of found.items) types.set(providerId, type);
  return types;
}

async function* linesOf(
  { clock }: ConnectorParts,
  lines: Lines,
  calls: ConnectorCalls,
  access: ProviderAccess,
  feed: FoundFeed,
  from: Instant,
  to: Instant | null,
  signal: AbortSignal
): AsyncGenerator<LinesPage> {
  const end = to ?? clock.now();
  for (let since = from; since < end;) {
    signal.throwIfAborted();
    const span = { feed, from: textFromInstant(since), to: textFromInstant(end) };
    const bindings = calls.bindings(access, { ...span, ...(await ordered(lines, calls, access, span)) });
    const answer = await onceMade(() => calls.send(access, lines.request, bindings), lines.notYet, signal);
    const { page, isMore } = await pageOf(lines, calls, answer, bindings, since);
    if (isMore === true && page.until <= since)
      throw malformed('The provider’s pages of lines lead back to themselves.');
    if (page.until <= since) return;
    yield page;
    if (isMore === false) return;
    since = page.until;
  }
}

async function ordered(
  { order }: Lines,
  calls: ConnectorCalls,
  access: ProviderAccess,
  span: Bindings
): Promise<Bindings> {
  if (order === undefined) return {};
  const bindings = calls.bindings(access, span);
  const sent = await calls.send(access, order.request, bindings);
  const taken = (await calls.take(sent, { order: order.take }, bindings))['order'];
  if (taken === undefined || taken === null)
    throw malformed('The provider’s answer to an order of lines has nothing that the connector takes for it.');
  return { order: taken };
}

async function pageOf(
  { each, map, until, more, isGzip }: Lines,
  calls: ConnectorCalls,
  answer: Sent,
  bindings: Bindings,
  since: Instant
): Promise<{ readonly page: LinesPage; readonly isMore: boolean | null }> {
  const take = {
    ...('at' in until && { until: until.at }),
    ...(more !== undefined && 'at' in more && { more: more.at })
  };
  let body: Uint8Array = answer.bytes;
  let taken: Readonly<Record<string, unknown>> = {};
  if (each !== undefined) {
    const mapped = await calls.map(answer, { each, map }, { as: 'lines' }, bindings, take);
    taken = mapped.taken;
    if (mapped.found.as === 'lines') body = mapped.found.items;
  } else if (Object.keys(take).length > 0) taken = await calls.take(answer, take, bindings);
  return {
    page: {
      ...{ body, isGzip: isGzip && each === undefined },
      until: 'at' in until ? untilOf(taken['until'], since) : completeUntil(answer, until.header, since)
    },
    isMore:
      more === undefined ? null : 'at' in more ? taken['more'] === true : answer.headers.get(more.header) === more.is
  };
}

function untilOf(given: unknown, since: Instant): Instant {
  try {
    return Math.max(since, instantFromText(String(given))) as Instant;
  } catch {
    throw malformed('What the connector takes for the moment up to which there are all lines is no date and time.');
  }
}
