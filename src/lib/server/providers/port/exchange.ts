import { jsonOrNull } from '$lib/core/forms/json';
import { z } from 'zod';
import { duration, peopleDuration, type Clock, type Duration } from '$lib/core/time';
import { answerBody, whyCallFailed } from './answer-body';
import { ProviderError, type ProviderAccess } from './provider';

/** How long one call may take before it counts as unreachable. */
const patienceMs = 15_000;
/** A page larger than this is refused unread. */
const mostBytes = 64 * 1024 * 1024;

/** What an answer says of itself is shown only so far, on one line, and without anything that steers. */
function toldOnly(most: number): (text: string) => string {
  return (text) =>
    text
      .slice(0, most * 4)
      .toWellFormed()
      .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]+/gu, ' ')
      .slice(0, most)
      .trim();
}

/** A problem as the providers tell it (RFC 9457). */
const problemSchema = z.object({
  type: z.string().default(''),
  detail: z.string().transform(toldOnly(300)).default(''),
  now: z.string().transform(toldOnly(40)).optional(),
  right: z.string().transform(toldOnly(80)).optional()
});

/**
 * One call to a provider, through the account's guard: bounded in time and size, never redirected, its failures told apart.
 *
 * @param path below the account's address
 * @param init made anew for each try, since a signature may be too old the second time
 * @returns the answer's text
 * @throws ProviderError for whatever goes wrong
 */
export async function exchange(
  clock: Clock,
  access: ProviderAccess,
  path: string,
  init: (url: string) => Promise<RequestInit> | RequestInit
): Promise<string> {
  return (await exchangeBytes(clock, access, path, init)).bytes.toString('utf8');
}

/** An answer as it came. */
export interface Exchanged {
  readonly status: number;
  readonly headers: Headers;
  readonly bytes: Buffer;
}

/** {@link exchange}, its answer as bytes and with what stands beside them. */
export function exchangeBytes(
  clock: Clock,
  access: ProviderAccess,
  path: string,
  init: (url: string) => Promise<RequestInit> | RequestInit
): Promise<Exchanged> {
  const url = access.endpoint.replace(/\/+$/, '') + path;
  return access.guard.run(async () => {
    const askedAt = clock.now();
    const { response, bytes } = await answerOf(access, url, await init(url));
    const serverTime = Date.parse(response.headers.get('date') ?? '');
    // An answer says its time to the second; half the way back is left out of the count.
    if (!Number.isNaN(serverTime))
      access.guard.meter.clockAheadMs = Math.round(serverTime + 500 - (askedAt + clock.now()) / 2);
    if (response.status >= 400) throw problemOf(clock, access, response, bytes.toString('utf8'));
    return { status: response.status, headers: response.headers, bytes };
  });
}

/** {@link exchange}, its answer read as JSON and checked against a schema. */
export async function exchangeJson<T>(
  clock: Clock,
  access: ProviderAccess,
  path: string,
  init: (url: string) => Promise<RequestInit> | RequestInit,
  schema: z.ZodType<T>
): Promise<T> {
  return parsed(path, await exchange(clock, access, path, init), schema);
}

async function answerOf(
  access: ProviderAccess,
  url: string,
  init: RequestInit
): Promise<{ response: Response; bytes: Buffer }> {
  try {
    const signal = AbortSignal.timeout(patienceMs);
    const response = await access.fetch(url, { ...init, redirect: 'error', signal });
    return { response, bytes: await answerBody(response, signal, mostBytes, 'Report it to the provider.') };
  } catch (error) {
    if (error instanceof ProviderError) throw error;
    const refused = refusalIn(error);
    if (refused !== null) throw refused;
    throw new ProviderError(
      'unreachable',
      `${new URL(url).host} could not be reached: ${whyCallFailed(error, patienceMs)}.`,
      'Check the address, and that this machine may reach it.',
      { cause: error }
    );
  }
}

/** The policy's own word on an address, however deep it was wrapped on its way. */
export function refusalIn(error: unknown): ProviderError | null {
  for (let inner: unknown = error; inner instanceof Error; inner = inner.cause)
    if (inner instanceof ProviderError) return inner;
  return null;
}

function problemOf(clock: Clock, { keyId }: ProviderAccess, response: Response, answer: string): ProviderError {
  const { status } = response;
  // Only what says that it is a problem is shown: whatever else answers there is no one's to read.
  const isProblem = /^application\/(problem\+)?json\b/i.test(response.headers.get('content-type') ?? '');
  const problem = problemSchema.safeParse((isProblem ? jsonOrNull(answer) : null) ?? {});
  const { type, detail, now, right } = problem.success ? problem.data : problemSchema.parse({});
  if (type.split(':').pop() === 'clock') {
    const apart = Math.abs(Date.parse(now ?? '') - clock.now());
    const difference = Number.isNaN(apart) ? 'more than it accepts' : peopleDuration(apart as Duration);
    return new ProviderError(
      'clock',
      `The clocks differ by ${difference}: the provider reports ${now ?? 'nothing'}.`,
      'Set this machine’s clock, or wait until the provider’s is right.'
    );
  }
  const answered = { status, detail };
  if (status === 401)
    return new ProviderError(
      'signature',
      `The credential was refused. ${detail}`.trim(),
      `Enter the secret of ${keyId} again; check the key id.`,
      { answered }
    );
  if (status === 403)
    return new ProviderError(
      'permission',
      `The credential lacks a right: ${right ?? 'unnamed'}. ${detail}`.trim(),
      `At the provider, grant ${right ?? 'the right'} to ${keyId}.`,
      { answered }
    );
  if (status === 429) {
    const seconds = Number(response.headers.get('retry-after'));
    return new ProviderError(
      'throttled',
      'The provider asks to slow down.',
      'Nothing: Bussola waits as long as the provider asks, then tries again.',
      { answered, retryAfter: seconds > 0 && seconds < 86_400 ? duration(Math.ceil(seconds) * 1000) : null }
    );
  }
  if (status >= 500)
    return new ProviderError(
      'unavailable',
      `The provider answered ${status}. ${detail}`.trim(),
      'Nothing: Bussola tries again with the next pull.',
      { answered }
    );
  return new ProviderError(
    'refused',
    `The provider refused the request (${status}). ${detail}`.trim(),
    'Check the account’s address: it may not be this provider’s interface.',
    { answered }
  );
}

function parsed<T>(path: string, answer: string, schema: z.ZodType<T>): T {
  const json = jsonOrNull(answer);
  const read = schema.safeParse(json);
  if (read.success) return read.data;
  const first = read.error.issues[0];
  const where =
    json === null
      ? 'it is no JSON, or was cut off'
      : `at ${first?.path.join('.').slice(0, 100) || 'its top'}: ${first?.message ?? 'unknown'}`;
  throw malformed(`The provider’s answer to ${path.split('?')[0] ?? path} cannot be read (${where}).`);
}

/** An answer that is not what it should be. */
export const malformed = (message: string): ProviderError =>
  new ProviderError(
    'malformed',
    message,
    'Nothing was lost: Bussola asks for the same span again. If it continues, report it to the provider.'
  );
