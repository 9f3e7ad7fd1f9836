import type { ConnectorLimits } from '$lib/core/connector';
import type { Clock } from '$lib/core/time';
import { answerBody } from '../port/answer-body';
import type { ProviderAccess } from '../port/provider';

/** A request and its answer, as somebody who writes a connector sees it: without what is secret. */
export interface SeenExchange {
  readonly method: string;
  readonly url: string;
  /** What the connector itself set; what signs in is named in `signs`. */
  readonly headers: Readonly<Record<string, string>>;
  readonly signs: readonly string[];
  /** Null for none, and for a request for a token. */
  readonly body: string | null;
  readonly status: number;
  readonly answerHeaders: Readonly<Record<string, string>>;
  /** As bytes came; empty for a token. */
  readonly answer: Buffer;
}
export type Observe = (exchange: SeenExchange) => void;

/** An answer is shown to this size, bytes. */
const mostShown = 4 * 1024 * 1024;

/**
 * An account's access under the limits of a connector: what asks to slow down says it as the port knows it. Whoever looks sees each exchange.
 *
 * @param plain headers that are not secret: what stands under the same name with another value signs in
 */
export function observed(
  clock: Clock,
  { slowDown, retryAfter }: ConnectorLimits,
  access: ProviderAccess,
  plain: Readonly<Record<string, string>>,
  observe: Observe | undefined
): ProviderAccess {
  const call: typeof fetch = async (url, init) => {
    const response = await access.fetch(url, init);
    const answer = observe === undefined ? response : await seen(observe, addressOf(url), init ?? {}, response, plain);
    if (!slowDown.includes(answer.status)) return answer;
    const headers = new Headers([...answer.headers]);
    const seconds = waitOf(clock, headers.get(retryAfter.header), retryAfter.in);
    headers.delete('retry-after');
    if (seconds !== null) headers.set('retry-after', String(seconds));
    return new Response(answer.body, { status: 429, headers });
  };
  return { ...access, fetch: call };
}

/** The address of a call. @example addressOf(new URL('http://192.0.2.7/a')) // 'http://192.0.2.7/a' */
export const addressOf = (url: Parameters<typeof fetch>[0]): string =>
  typeof url === 'string' ? url : url instanceof URL ? url.href : url.url;

/** Seconds to wait as an answer says it; null where it does not. */
function waitOf(clock: Clock, given: string | null, unit: ConnectorLimits['retryAfter']['in']): number | null {
  if (given === null || given.trim() === '') return null;
  const seconds =
    unit === 'date' ? (Date.parse(given) - clock.now()) / 1000 : Number(given) / (unit === 'milliseconds' ? 1000 : 1);
  return Number.isFinite(seconds) && seconds > 0 ? seconds : null;
}

async function seen(
  observe: Observe,
  url: string,
  init: RequestInit,
  response: Response,
  plain: Readonly<Record<string, string>>
): Promise<Response> {
  const bytes = await answerBody(
    response,
    init.signal ?? AbortSignal.timeout(15_000),
    mostShown,
    'Request less at once.'
  );
  const sent = Object.entries((init.headers ?? {}) as Record<string, string>).map(([name, value]) => ({
    ...{ name: name.toLowerCase(), value },
    isPlain: plain[name.toLowerCase()] === value
  }));
  // What is sent as a form is a request for a token: neither it nor its answer is shown.
  const isToken = init.body instanceof URLSearchParams;
  observe({
    method: init.method ?? 'GET',
    url,
    headers: Object.fromEntries(sent.filter(({ isPlain }) => isPlain).map(({ name, value }) => [name, value])),
    signs: sent.filter(({ isPlain }) => !isPlain).map(({ name }) => name),
    body: typeof init.body === 'string' ? init.body : null,
    status: response.status,
    answerHeaders: Object.fromEntries([...response.headers].filter(([name]) => name !== 'set-cookie')),
    answer: isToken ? Buffer.alloc(0) : bytes
  });
  const isEmpty = [204, 205, 304].includes(response.status);
  return new Response(isEmpty ? null : new Uint8Array(bytes), {
    status: response.status,
    headers: [...response.headers]
  });
}
