import type { Outbound } from '../../providers/port/outbound';
import { partsOf } from '../../providers/port/outbound';
import { NotTaken, type Exchange } from './sender';

/** How long an answer may take, and how much of it is read. */
const longestMs = 10_000;
const mostAnswered = 2000;

/** A request as it is sent, and as people may read it. */
export interface Post {
  readonly url: string;
  /** The address as it is shown: without what is secret in it. */
  readonly shownUrl: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | Uint8Array<ArrayBuffer>;
  /** What is shown of the body: all of it by default. */
  readonly shownBody?: string;
}

/**
 * Posts a message, and waits for an answer of success.
 *
 * @throws NotTaken for any other answer; whatever the call throws when there is none
 * @example await postMessage(fetch, { url, shownUrl: url, headers: {}, body: '{}' }) // { request: 'POST …', answer: '204' }
 */
export async function postMessage(
  call: Outbound,
  { url, shownUrl, headers, body, shownBody }: Post
): Promise<Exchange> {
  const signal = AbortSignal.timeout(longestMs);
  const response = await call(url, { method: 'POST', headers, body, signal });
  const answer = `${response.status} ${response.statusText}\n${await beginning(response, signal)}`.trim();
  const shown = shownBody ?? (typeof body === 'string' ? body : '');
  const exchange = { request: `POST ${shownUrl}\n${shown}`.slice(0, 10_000), answer };
  if (response.status >= 200 && response.status < 300) return exchange;
  throw new NotTaken(`answered ${answer.replace(/\s+/g, ' ').slice(0, 200)}`, exchange);
}

/** The beginning of an answer as text. The rest is not waited for. */
async function beginning(response: Response, signal: AbortSignal): Promise<string> {
  const decoder = new TextDecoder();
  let text = '';
  for await (const part of partsOf(response, signal)) {
    text += decoder.decode(part, { stream: true });
    if (text.length >= mostAnswered) break;
  }
  return text.slice(0, mostAnswered).replaceAll('\0', '');
}
