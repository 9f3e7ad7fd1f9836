import equal from 'fast-deep-equal';
import { z } from 'zod';
import { connectorParts, type Connector } from '$lib/core/connector';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { addressOf, type SeenExchange } from '../providers/connector/observed';
import { plainGuard } from '../providers/port/guard';
import { ProviderError } from '../providers/port/provider';
import { tryConnector, type Tried, type Trying } from './try-connector';

/** A recording larger than this is refused, bytes as JSON. */
const mostBytes = 3 * 1024 * 1024;

const texts = z.record(z.string(), z.string());

/** What was requested and answered when a part was tried, and what it was mapped to. */
export const recordingSchema = z.strictObject({
  version: z.literal(1),
  part: z.enum(connectorParts),
  inputs: z.strictObject({
    resource: z.string().optional(),
    metrics: z.array(z.string()).optional(),
    from: z.string().optional(),
    to: z.string().optional(),
    cursor: z.string().optional()
  }),
  /** The clock at that moment, the address and the key: requests are the same only with the same. */
  now: z.number(),
  endpoint: z.string(),
  keyId: z.string(),
  exchanges: z.array(
    z.strictObject({
      method: z.string(),
      url: z.string(),
      body: z.string().nullable(),
      status: z.number(),
      answerHeaders: texts,
      /** Base64. */
      answer: z.string()
    })
  ),
  items: z.array(z.unknown())
});
export type Recording = z.output<typeof recordingSchema>;

/** The recording of a try that worked. @throws Refusal `too-large` */
export function recordingOf(
  tried: Tried,
  { part, now, endpoint, keyId }: Pick<Recording, 'part' | 'endpoint' | 'keyId'> & { readonly now: Instant }
): Recording {
  const recording = recordingSchema.parse({
    ...{ version: 1, part, inputs: plainOf(tried.inputs), now, endpoint, keyId },
    exchanges: tried.exchanges.map(({ method, url, body, status, answerHeaders, answer }) => ({
      ...{ method, url, body, status, answerHeaders },
      answer: answer.toString('base64')
    })),
    items: plainOf(tried.items)
  });
  if (JSON.stringify(recording).length > mostBytes)
    throw new Refusal(
      'too-large',
      `The recording would have more than ${mostBytes / 1048576} MiB.`,
      'Record a shorter span, or one resource with fewer metrics.'
    );
  return recording;
}

const plainOf = (value: unknown): unknown => JSON.parse(JSON.stringify(value)) as unknown;

/** What came of a test on a recording. */
export interface TestedRecording {
  readonly passed: boolean;
  /** What differs first, or why it failed; null when it passed. */
  readonly says: string | null;
}

/**
 * Tries a connector on what was recorded, without the provider: it must request the same, and make the same of the answers.
 *
 * @example (await testOnRecording({ clock, pool }, connector, recording)).passed
 */
export async function testOnRecording(
  { pool }: Pick<Trying, 'pool'>,
  connector: Connector,
  { part, inputs, now, endpoint, keyId, exchanges, items }: Recording
): Promise<TestedRecording> {
  const access = { endpoint, keyId, secret: 'recorded', guard: plainGuard(), fetch: replay(exchanges) };
  const given = Object.fromEntries(Object.entries(inputs).filter(([, value]) => value !== undefined));
  const tried = await tryConnector({ clock: { now: () => now as Instant }, pool }, connector, access, part, given);
  if (tried.problem !== null) return { passed: false, says: `${tried.problem.message} ${tried.problem.remedy}` };
  const difference = differenceOf(items, plainOf(tried.items), '');
  return { passed: difference === null, says: difference };
}

/** Answers as they were recorded; of the same request several times in their order, the last again and again. */
function replay(exchanges: Recording['exchanges']): typeof fetch {
  const waiting = new Map<string, Recording['exchanges']>();
  for (const one of exchanges) {
    const name = nameOf(one.method, one.url, one.body);
    waiting.set(name, [...(waiting.get(name) ?? []), one]);
  }
  return (url, init) => {
    if (init?.body instanceof URLSearchParams)
      return Promise.resolve(Response.json({ access_token: 'recorded', expires_in: 3600 }));
    const method = init?.method ?? 'GET';
    const all = waiting.get(nameOf(method, addressOf(url), typeof init?.body === 'string' ? init.body : null));
    const next = all && all.length > 1 ? all.shift() : all?.[0];
    if (next === undefined) {
      const { pathname, search } = new URL(addressOf(url));
      return Promise.reject(
        new ProviderError(
          'refused',
          `The recording has no answer to ${method} ${pathname}${search}`.slice(0, 400) + '.',
          'The connector requests something else now. Record it again if it is meant to.'
        )
      );
    }
    const isEmpty = [204, 205, 304].includes(next.status);
    const body = isEmpty ? null : new Uint8Array(Buffer.from(next.answer, 'base64'));
    // It was unpacked when it was recorded.
    const headers = Object.entries(next.answerHeaders).filter(
      ([name]) => !['content-encoding', 'content-length', 'transfer-encoding', 'date'].includes(name)
    );
    return Promise.resolve(new Response(body, { status: next.status, headers }));
  };
}

const nameOf = (method: string, url: string, body: string | null): string => JSON.stringify([method, url, body]);

/** Where two values differ first, in words; null where they are equal. */
function differenceOf(recorded: unknown, given: unknown, path: string): string | null {
  if (equal(recorded, given)) return null;
  const areObjects = [recorded, given].every((value) => typeof value === 'object' && value !== null);
  if (areObjects && Array.isArray(recorded) === Array.isArray(given)) {
    const [left, right] = [recorded, given] as [Record<string, unknown>, Record<string, unknown>];
    for (const key of new Set([...Object.keys(left), ...Object.keys(right)])) {
      const inner = differenceOf(left[key], right[key], path === '' ? key : `${path}.${key}`);
      if (inner !== null) return inner;
    }
  }
  const shown = (value: unknown): string =>
    value === undefined ? 'nothing' : (JSON.stringify(value) ?? '').slice(0, 200);
  return `${path || 'The result'}: ${shown(recorded)} was recorded, now it is ${shown(given)}.`;
}

/** An exchange as people see it: texts, cut where they are long. */
export function shownExchange({ method, url, headers, signs, body, status, answerHeaders, answer }: SeenExchange) {
  const isText = /json|text|xml|ndjson|markdown/i.test(answerHeaders['content-type'] ?? 'text');
  const whole = isText ? answer.toString('utf8') : `${answer.length} bytes that are no text`;
  return {
    method,
    url,
    headers,
    signs,
    body,
    status,
    answerHeaders,
    answer: whole.slice(0, 40_000),
    isCut: whole.length > 40_000
  };
}
