import { request, type IncomingMessage } from 'node:http';
import { isExpected, type Target } from '$lib/core/reachability';
import type { Instant } from '$lib/core/time';
import { AttemptFailed, type Going } from './going';
import { connected } from './connect';

/** Bytes of an answer that are read: what has to be in it has to be among them. */
const mostRead = 262_144;

/**
 * Asks for a page over a connection of its own, so that every phase is measured each time. Redirects are not followed: where they lead is a check of its own.
 *
 * @throws AttemptFailed when the answer is not as expected
 */
export async function askHttp(
  { url, method, statuses, contains, trusted }: Extract<Target, { kind: 'http' }>,
  going: Going,
  at: Instant
): Promise<void> {
  const { protocol, hostname, port, pathname, search, host } = new URL(url);
  const bare = hostname.replace(/^\[|\]$/g, '');
  const isSecure = protocol === 'https:';
  const usualPort = isSecure ? 443 : 80;
  const socket = await connected(
    bare,
    port === '' ? usualPort : Number(port),
    isSecure ? { trusted } : null,
    going,
    at
  );
  const asked = request({
    ...{ createConnection: () => socket, method, path: `${pathname}${search}`, signal: going.signal },
    headers: { host, 'user-agent': 'Bussola', accept: '*/*', 'accept-encoding': 'identity', connection: 'close' }
  });
  const answered = new Promise<IncomingMessage>((resolve, reject) => {
    asked.once('response', resolve);
    asked.on('error', reject);
    socket.once('close', () => reject(new AttemptFailed('The connection was closed without an answer.')));
  });
  asked.end();
  const answer = await going.phase('wait', () => answered);
  const status = answer.statusCode ?? 0;
  going.progress.status = status;
  const body = await going.phase('read', () => beginningOf(answer));
  if (!isExpected(status, statuses)) throw new AttemptFailed(unexpected(status, answer.headers.location));
  if (contains !== '' && !body.includes(contains))
    throw new AttemptFailed(`The answer (${status}) does not contain “${contains}”.`);
}

function unexpected(status: number, location: string | undefined): string {
  const words = `Answered ${status}`;
  if (status < 300 || status >= 400 || location === undefined) return `${words}.`;
  return `${words}, which leads to ${location.slice(0, 200)}; that is not followed.`;
}

/** The beginning of an answer as text; what comes after it is not waited for. */
async function beginningOf(answer: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of answer as AsyncIterable<Buffer>) {
    parts.push(part);
    size += part.length;
    if (size >= mostRead) break;
  }
  return Buffer.concat(parts).toString('utf8', 0, mostRead);
}
