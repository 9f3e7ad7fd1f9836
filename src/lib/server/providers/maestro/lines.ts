import { createParser } from 'eventsource-parser';
import { instantFromText, textFromInstant, type Clock, type Instant } from '$lib/core/time';
import { malformed } from '../port/exchange';
import { partsOf } from '../port/outbound';
import type { LineFeed, LinesPage, ProviderAccess } from '../port/provider';
import type { Cluster } from './call';
import { openStream } from './stream';

/** A message of the stream has so many characters at most. */
const longestMessage = 32 * 1024 * 1024;

/** Maestro’s lines: a stream for each cluster, each message with the lines of a span; each line says what wrote it. */
export const maestroLines = (access: ProviderAccess, clusters: readonly Cluster[]): LineFeed[] =>
  clusters.map(({ id, title }) => ({
    name: id,
    service: 'clusters',
    resource: null,
    read: (from, to, signal) => follow(access, id, title, from, to, signal)
  }));

/** Opens the stream of lines and closes it again. */
export async function hearLines(clock: Clock, access: ProviderAccess, { id, title }: Cluster): Promise<void> {
  const ending = new AbortController();
  try {
    await opened(access, id, title, new URLSearchParams({ since: textFromInstant(clock.now()) }), ending.signal);
  } finally {
    ending.abort();
  }
}

const opened = (
  access: ProviderAccess,
  cluster: string,
  title: string,
  query: URLSearchParams,
  signal: AbortSignal
): Promise<Response> =>
  openStream(access, `/clusters/${encodeURIComponent(cluster)}/lines?${query.toString()}`, {
    what: `The stream of lines of ${title}`,
    right: 'lines.follow',
    signal
  });

async function* follow(
  access: ProviderAccess,
  cluster: string,
  title: string,
  from: Instant,
  to: Instant | null,
  signal: AbortSignal
): AsyncGenerator<LinesPage> {
  const query = new URLSearchParams({ since: textFromInstant(from) });
  if (to !== null) query.set('until', textFromInstant(to));
  const response = await opened(access, cluster, title, query, signal);
  const waiting: LinesPage[] = [];
  const encoder = new TextEncoder();
  let since = from;
  const parser = createParser({
    onEvent: ({ id = '', data }) => {
      const until = untilOf(id, since);
      if (until > since) waiting.push({ body: encoder.encode(data), isGzip: false, until });
      since = until;
    }
  });
  const decoder = new TextDecoder();
  let unfinished = 0; // characters since the last message
  for await (const part of partsOf(response, signal)) {
    parser.feed(decoder.decode(part, { stream: true }));
    unfinished = waiting.length > 0 ? 0 : unfinished + part.byteLength;
    if (unfinished > longestMessage)
      throw malformed(`The stream of lines of ${title} has a message of more than ${longestMessage / 1048576} MiB.`);
    for (let page = waiting.shift(); page; page = waiting.shift()) yield page;
  }
}

function untilOf(id: string, since: Instant): Instant {
  try {
    return Math.max(since, instantFromText(id)) as Instant;
  } catch {
    throw malformed('A message of lines does not say up to when it has all of them.');
  }
}
