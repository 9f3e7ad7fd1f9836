import { createHash } from 'node:crypto';
import { createSigner, httpbis } from 'http-message-signatures';
import { z } from 'zod';
import { peopleDuration, type Clock, type Duration } from '$lib/core/time';
import { ProviderError, type ProviderAccess } from '../provider';

/** How long one call may take before it counts as unreachable. */
const patienceMs = 15_000;
/** A page larger than this is refused unread. */
const mostBytes = 32 * 1024 * 1024;

const problemSchema = z.object({
  type: z.string().default(''),
  detail: z.string().max(2000).default(''),
  now: z.string().optional(),
  right: z.string().optional()
});

/**
 * One signed call (RFC 9421, hmac-sha256) to Levante, its answer checked against a schema.
 *
 * @throws ProviderError for whatever goes wrong: unreachable, clock, signature, permission, throttled, unavailable, malformed, refused
 * @example await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema)
 */
export async function callLevante<T>(
  clock: Clock,
  access: ProviderAccess,
  method: 'GET' | 'POST',
  path: string,
  body: unknown,
  schema: z.ZodType<T>
): Promise<T> {
  const url = access.endpoint.replace(/\/+$/, '') + path;
  const text = body === null ? null : JSON.stringify(body);
  const headers: Record<string, string> = { accept: 'application/json' };
  if (text !== null) {
    headers['content-type'] = 'application/json';
    headers['content-digest'] = `sha-256=:${createHash('sha256').update(text).digest('base64')}:`;
  }
  const signed = await httpbis.signMessage(
    {
      key: { ...createSigner(access.secret, 'hmac-sha256'), id: access.keyId },
      name: 'bussola',
      fields: ['@method', '@target-uri', ...(text === null ? [] : ['content-digest'])],
      params: ['created', 'keyid', 'alg'],
      paramValues: { created: new Date(clock.now()) }
    },
    { method, url, headers }
  );
  const { status, answer } = await exchange(url, {
    method,
    headers: signed.headers,
    body: text
  });
  if (status >= 400) throw problemOf(clock, access, status, answer);
  return parseAnswer(path, answer, schema);
}

async function exchange(url: string, init: RequestInit): Promise<{ status: number; answer: string }> {
  try {
    const response = await fetch(url, { ...init, redirect: 'error', signal: AbortSignal.timeout(patienceMs) });
    return { status: response.status, answer: await boundedText(response) };
  } catch (error) {
    if (error instanceof ProviderError) throw error;
    throw new ProviderError(
      'unreachable',
      `${new URL(url).host} could not be reached: ${reasonOf(error)}.`,
      'Check the address, and that this machine may reach it.',
      { cause: error }
    );
  }
}

async function boundedText(response: Response): Promise<string> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of (response.body ?? []) as AsyncIterable<Uint8Array>) {
    size += part.byteLength;
    if (size > mostBytes)
      throw new ProviderError(
        'malformed',
        `An answer of more than ${mostBytes / 1048576} MiB was refused.`,
        'Report it to the provider.'
      );
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

function reasonOf(error: unknown): string {
  if (error instanceof Error && error.name === 'TimeoutError') return `no answer within ${patienceMs / 1000} s`;
  const cause = error instanceof Error ? (error.cause as { code?: string; message?: string } | undefined) : undefined;
  const words: Record<string, string> = {
    ECONNREFUSED: 'nothing listens there (connection refused)',
    ENOTFOUND: 'there is no host of that name',
    EAI_AGAIN: 'its name could not be looked up',
    ECONNRESET: 'the connection was cut',
    UND_ERR_SOCKET: 'the connection was cut'
  };
  return words[cause?.code ?? ''] ?? cause?.message ?? (error instanceof Error ? error.message : String(error));
}

function problemOf(clock: Clock, access: ProviderAccess, status: number, answer: string): ProviderError {
  const problem = problemSchema.safeParse(jsonOrNull(answer) ?? {});
  const { type, detail, now, right } = problem.success ? problem.data : problemSchema.parse({});
  const kind = type.split(':').pop();
  if (kind === 'clock') {
    const apart = Math.abs(Date.parse(now ?? '') - clock.now());
    const told = Number.isNaN(apart) ? 'more than it accepts' : peopleDuration(apart as Duration);
    return new ProviderError(
      'clock',
      `The clocks differ by ${told}: the provider says ${now ?? 'nothing'}.`,
      'Set this machine’s clock, or wait until the provider’s is right.'
    );
  }
  if (status === 401)
    return new ProviderError(
      'signature',
      `The signature was refused. ${detail}`.trim(),
      `Enter the secret of ${access.keyId} again; check the key id.`
    );
  if (status === 403)
    return new ProviderError(
      'permission',
      `The credential lacks a right: ${right ?? 'unnamed'}. ${detail}`.trim(),
      `At the provider, grant ${right ?? 'the right'} to ${access.keyId}.`
    );
  if (status === 429)
    return new ProviderError(
      'throttled',
      'The provider asks to slow down.',
      'Nothing: Bussola tries again with the next pull.'
    );
  if (status >= 500)
    return new ProviderError(
      'unavailable',
      `The provider answered ${status}. ${detail}`.trim(),
      'Nothing: Bussola tries again with the next pull.'
    );
  return new ProviderError(
    'refused',
    `The provider refused the request (${status}). ${detail}`.trim(),
    'Check the account’s address: it may not be this provider’s interface.'
  );
}

function parseAnswer<T>(path: string, answer: string, schema: z.ZodType<T>): T {
  const json = jsonOrNull(answer);
  const parsed = schema.safeParse(json);
  if (parsed.success) return parsed.data;
  const first = parsed.error.issues[0];
  const where =
    json === null
      ? 'it is no JSON, or was cut off'
      : `at ${first?.path.join('.') || 'its top'}: ${first?.message ?? 'unknown'}`;
  throw new ProviderError(
    'malformed',
    `The provider’s answer to ${path} cannot be read (${where}).`,
    'Nothing was lost: Bussola asks for the same span again. If it goes on, tell the provider.'
  );
}

function jsonOrNull(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}
