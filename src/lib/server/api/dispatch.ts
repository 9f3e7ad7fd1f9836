import { json, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import { refusalOfSchema } from '$lib/core/forms/problems';
import { Refusal } from '$lib/core/problem/problem';
import { recordAct, type Outcome } from '../audit/acts';
import { noSubject, subjectOf, type Subject } from '../audit/subjects';
import { readJson } from '../http/json-request';
import { problemResponse } from '../http/problem';
import { forReader } from '../http/reader';
import { resting, restingKinds } from '../removals/resting';
import { requireLines } from '../people/line-access';
import type { Bussola } from '../process/start';
import { GivenUp } from '../query/query-queue';
import { actsOf, callerOf, linesOf, nobody, signedInCaller, turnOf } from './callers';
import { isKnown, refuseUnlessRead, tagOf } from './conditional';
import { once, onceKey } from './once';
import { nextLink, pagedAnswer, pageOf } from './paging';
import { RateExceeded } from '../people/request-rate';
import { mayRepeat, timeFormats, type Call, type Caller, type Operation, type TimeFormat } from './operation';
import type { Router } from './router';

/**
 * Answers a request to the API: finds the operation, checks who calls and what was sent, does it, and writes the answer. Whatever goes wrong is answered as a problem in JSON.
 *
 * @param path below `/api/v1`
 */
export async function answerApi(server: Bussola, router: Router, event: RequestEvent, path: string): Promise<Response> {
  try {
    const { operation, params } = router.find(event.request.method, path);
    event.locals.operation = `/api/v1${operation.path}`;
    const told = new Headers();
    const answered = await conditionally(server, router, { operation, params }, event, path, told);
    for (const [name, value] of told) answered.headers.set(name, value);
    return answered;
  } catch (error) {
    if (error instanceof RateExceeded) {
      const refused = problemResponse(error);
      for (const [name, value] of Object.entries(error.headers)) refused.headers.set(name, value);
      return refused;
    }
    if (error instanceof GivenUp) return new Response(null, { status: 499 }); // nobody reads it
    if (error instanceof Refusal) return problemResponse(error);
    server.log.error({ err: error, path }, 'a call of the API failed');
    return problemResponse({
      code: 'internal',
      message: 'Bussola failed to answer.',
      remedy: 'Try again. If it continues, tell whoever runs Bussola: the log has the reason.'
    });
  }
}

/** Answers with a tag what is read, and changes nothing that is not as it was read, where a request says so (RFC 9110, 13). */
async function conditionally(
  server: Bussola,
  router: Router,
  { operation, params }: ReturnType<Router['find']>,
  event: RequestEvent,
  path: string,
  told: Headers
): Promise<Response> {
  const { request } = event;
  if (operation.method !== 'GET') {
    if (!request.headers.has('if-match')) return answer(server, operation, params, event, told);
    // One after the other: of two who read the same, one is refused.
    return server.turns.take(`if-match ${path}`, async () => {
      refuseUnlessRead(request, await currentTags(server, router, event, path));
      return answer(server, operation, params, event, told);
    });
  }
  const answered = await answer(server, operation, params, event, told);
  if (operation.answer === null || answered.status !== 200 || !isJson(answered)) return answered;
  const text = await answered.text();
  const tag = tagOf(text);
  const headers = new Headers(answered.headers);
  headers.set('etag', tag);
  headers.append('vary', 'Prefer');
  return isKnown(request, tag)
    ? new Response(null, { status: 304, headers })
    : new Response(text, { status: 200, headers });
}

const isJson = ({ headers }: Response): boolean => headers.get('content-type')?.startsWith('application/json') ?? false;

/** Tags of what an address answers when it is read, one for each way to write instants; none where it cannot be read. */
async function currentTags(server: Bussola, router: Router, event: RequestEvent, path: string): Promise<string[]> {
  const reading = router.reading(path);
  if (reading === null || reading.operation.isAct) return [];
  const tags: string[] = [];
  for (const times of timeFormats) {
    const request = new Request(event.request.url, {
      headers: { ...authority(event.request), prefer: `times=${times}` }
    });
    try {
      const answered = await answer(server, reading.operation, reading.params, { ...event, request }, null);
      if (isJson(answered)) tags.push(tagOf(await answered.text()));
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return []; // the change itself says why
    }
  }
  return tags;
}

const authority = ({ headers }: Request): Record<string, string> => {
  const given = headers.get('authorization');
  return given === null ? {} : { authorization: given };
};

/**
 * @param told headers of the answer, whatever comes of it; null where it is no request of its own
 */
async function answer(
  server: Bussola,
  operation: Operation,
  params: Record<string, string>,
  event: RequestEvent,
  told: Headers | null
): Promise<Response> {
  const { request, url } = event;
  const caller = operation.isRaw
    ? nobody(event)
    : await callerOf(server, operation, event, told).catch((refusal: unknown) =>
        recordRefused(refusal, signedInCaller(event))
      );
  const readParams = operation.params.safeParse(params);
  if (!readParams.success)
    throw new Refusal('not-found', 'There is nothing at this address.', 'See /api/v1/openapi.json.');
  const readQuery = operation.query.safeParse(Object.fromEntries(url.searchParams));
  if (!readQuery.success) throw refusalOfSchema(readQuery.error, 'The query of the address');
  const page = operation.list === null ? { limit: Infinity, after: null } : pageOf(operation.list, readQuery.data);
  const body =
    operation.body === null || operation.isRaw ? null : await readJson(request, operation.body, operation.mostBytes);
  /** What its rights are asked of goes with the server: within a transaction, another connection might wait for its end. */
  const callOn = (on: Bussola): Call<unknown, unknown, unknown> => ({
    ...caller,
    server: on,
    params: readParams.data,
    query: readQuery.data,
    body,
    page,
    times: timesOf(request),
    request,
    lineAccounts: async () => requireLines(await linesOf(on, caller)),
    actAccounts: () => actsOf(on, caller),
    inTurn: (work, link) =>
      forReader(
        event,
        link === undefined
          ? { ...turnOf(caller), lineAccounts: () => linesOf(on, caller) }
          : { name: link, isAnonymous: true },
        work
      )
  });
  const key = mayRepeat(operation) && caller.reader !== null ? onceKey(request.headers) : null;
  if (key === null) return respond();
  const { name } = turnOf(caller);
  return once(server, { caller: name, key, method: operation.method, path: url.pathname, body }, respond);

  async function respond(): Promise<Response> {
    const named = operation.isAct ? await subjectOf(server.db, kindOf(operation), Number(params['id'])) : null;
    const answered = await done().catch((refusal: unknown) => recordRefused(refusal, caller, named ?? undefined));
    if (named !== null) await record('done', caller, named.subject === '' ? await madeBy(answered) : named);
    if (answered instanceof Response) return answered;
    if (operation.answer === null) return new Response(null, { status: operation.status });
    if (operation.list === null) return sent(answered);
    const { answer: whole, next } = pagedAnswer(operation.list, answered as object, page);
    return sent(whole, next === null ? {} : { link: nextLink(addressOf(server.origin, url), next) });
  }

  function sent(what: unknown, headers: Record<string, string> = {}): Response {
    return json(written(operation.answer as z.ZodType, what, timesOf(request)), { status: operation.status, headers });
  }

  /** What somebody removes rests for a while. */
  function done(): Promise<unknown> {
    const kind = kindOf(operation);
    if (operation.method !== 'DELETE' || operation.path !== `/${kind}/{id}` || !restingKinds.has(kind))
      return operation.handle(callOn(server) as never);
    const { id } = readParams.data as { id: number };
    return resting(server, { kind, id, by: caller.author.displayName }, (within) =>
      operation.handle(callOn(within) as never)
    );
  }

  /** What was made is called as it is now. */
  function madeBy(made: unknown): Promise<Subject> {
    const id = typeof made === 'object' && made !== null && 'id' in made ? Number(made.id) : NaN;
    return subjectOf(server.db, kindOf(operation), id);
  }

  /** What somebody may not do is recorded, whether their role, their key, or the thing itself does not allow it. */
  async function recordRefused(refusal: unknown, by: Caller, on: Subject = noSubject): Promise<never> {
    if (operation.isAct && refusal instanceof Refusal && refusal.code === 'not-allowed')
      await record('refused', by, on);
    throw refusal;
  }

  /** What was done is done: that it could not be written down is an error of Bussola's, not of who did it. */
  async function record(outcome: Outcome, { reader, author, address }: Caller, subject: Subject): Promise<void> {
    const isKey = reader?.id === 0;
    const name = `${operation.method} ${operation.path}`;
    await recordAct(
      server.db,
      {
        ...{ at: server.clock.now(), personId: isKey ? null : author.id, by: author.displayName, outcome, address },
        ...{ means: isKey ? 'key' : reader === null ? 'nobody' : 'person', act: name },
        ...{ what: operation.summary.split('.')[0] ?? '', ...subject }
      },
      savesItself.has(name) || reader === null
    ).catch((error: unknown) => server.log.error({ err: error }, 'what was done could not be recorded'));
  }
}

/** Operations by which a page saves itself while somebody works on it. */
const savesItself: ReadonlySet<string> = new Set(['PUT /boards/{id}']);

/** The first part of the address of an operation: what kind of thing it is about. */
const kindOf = ({ path }: Operation): string => path.split('/')[1] ?? '';

/** An address as clients know it, whatever is before Bussola. */
const addressOf = (origin: string, { pathname, search }: URL): URL => new URL(pathname + search, origin);

/** How a request prefers instants to be written (RFC 7240): what it prefers and is not known here does not count. */
const timesOf = (request: Request): TimeFormat => {
  const wanted = /(?:^|[,;]) *times *= *"?([a-z0-9]+)"? *(?:$|[,;])/i.exec(request.headers.get('prefer') ?? '')?.[1];
  return timeFormats.find((one) => one === wanted?.toLowerCase()) ?? 'rfc3339';
};

/** An answer as it is sent. */
function written(schema: z.ZodType, answered: unknown, times: TimeFormat): unknown {
  if (times === 'epoch') return answered;
  const encoded = z.safeEncode(schema, answered);
  if (encoded.success) return encoded.data;
  throw new Error(`an answer does not fit its schema: ${z.prettifyError(encoded.error)}`, { cause: encoded.error });
}
