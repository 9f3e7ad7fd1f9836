import { json, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import { refusalOfSchema } from '$lib/core/forms/problems';
import { hasRights } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { recordAct, type Outcome } from '../audit/acts';
import { subjectOf, type Subject } from '../audit/subjects';
import { authorOf } from '../boards/boards';
import { readJson } from '../http/json-request';
import { problemResponse } from '../http/problem';
import { forReader } from '../http/reader';
import { bearerOf } from '../intake/receive/admit';
import { keyByText } from '../intake/receive/keys';
import { actRight } from '../people/act-access';
import { resting, restingKinds } from '../removals/resting';
import { profileOf } from '../people/people';
import { lineRight, requireLines } from '../people/line-access';
import type { Bussola } from '../process/start';
import { GivenUp } from '../query/query-queue';
import { timeFormats, type Call, type Caller, type Method, type Operation, type TimeFormat } from './operation';

/** An operation with the parts of its path. */
interface Route {
  readonly operation: Operation;
  readonly parts: readonly string[];
}

const isParameter = (part: string): boolean => part.startsWith('{');

/** Finds operations by address. */
export class Router {
  readonly #routes: readonly Route[];

  constructor(operations: readonly Operation[]) {
    this.#routes = operations.map((operation) => ({ operation, parts: operation.path.split('/').slice(1) }));
  }

  /**
   * @param path below `/api/v1`, still encoded
   * @throws Refusal `not-found`; `method-not-allowed` naming those that there are
   * @example new Router(operations).find('GET', '/boards/3').params // { id: '3' }
   */
  find(method: string, path: string): { operation: Operation; params: Record<string, string> } {
    const parts = path.split('/').slice(1);
    const there = this.#routes
      .filter((route) => route.parts.length === parts.length)
      .filter((route) => route.parts.every((part, index) => isParameter(part) || part === parts[index]))
      // What is written out comes before what is a parameter: `/boards/plan` before `/boards/{id}`.
      .sort((one, other) => one.parts.filter(isParameter).length - other.parts.filter(isParameter).length);
    const sought = method === 'HEAD' ? 'GET' : method;
    const found = there.find(({ operation }) => operation.method === sought);
    if (!found) {
      const [nearest] = there;
      if (!nearest)
        throw new Refusal('not-found', `There is nothing at ${path.slice(0, 200)}.`, 'See /api/v1/openapi.json.');
      const methods = there.filter(({ parts: of }) => of.join() === nearest.parts.join()).map(methodOf);
      throw new Refusal('method-not-allowed', `${path} does not take ${method}.`, `Use ${methods.join(' or ')}.`);
    }
    const params = found.parts.flatMap((part, index): [string, string][] =>
      isParameter(part) ? [[part.slice(1, -1), decodeURIComponent(parts[index] as string)]] : []
    );
    return { operation: found.operation, params: Object.fromEntries(params) };
  }
}

const methodOf = ({ operation }: Route): Method => operation.method;

/**
 * Answers a request to the API: finds the operation, checks who calls and what was sent, does it, and writes the answer. Whatever goes wrong is answered as a problem in JSON.
 *
 * @param path below `/api/v1`
 */
export async function answerApi(server: Bussola, router: Router, event: RequestEvent, path: string): Promise<Response> {
  try {
    const { operation, params } = router.find(event.request.method, path);
    return await answer(server, operation, params, event);
  } catch (error) {
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

async function answer(
  server: Bussola,
  operation: Operation,
  params: Record<string, string>,
  event: RequestEvent
): Promise<Response> {
  const { request, url } = event;
  const caller = operation.isRaw
    ? nobody(event)
    : await callerOf(server, operation, event).catch((refusal: unknown) =>
        recordRefused(refusal, signedInCaller(event))
      );
  const readParams = operation.params.safeParse(params);
  if (!readParams.success)
    throw new Refusal('not-found', 'There is nothing at this address.', 'See /api/v1/openapi.json.');
  const readQuery = operation.query.safeParse(Object.fromEntries(url.searchParams));
  if (!readQuery.success) throw refusalOfSchema(readQuery.error, 'The query of the address');
  const body =
    operation.body === null || operation.isRaw ? null : await readJson(request, operation.body, operation.mostBytes);
  /** What its rights are asked of goes with the server: within a transaction, another connection might wait for its end. */
  const callOn = (on: Bussola): Call<unknown, unknown, unknown> => ({
    ...caller,
    server: on,
    params: readParams.data,
    query: readQuery.data,
    body,
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
  const named = operation.isAct ? await subjectOf(server.db, kindOf(operation), Number(params['id'])) : null;
  const answered = await done().catch((refusal: unknown) => recordRefused(refusal, caller, named ?? undefined));
  if (named !== null) await record('done', caller, named.subject === '' ? await madeBy(answered) : named);
  if (answered instanceof Response) return answered;
  if (operation.answer === null) return new Response(null, { status: operation.status });
  return json(written(operation.answer, answered, timesOf(request)), { status: operation.status });

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
  async function recordRefused(refusal: unknown, by: Caller, on: Subject = { subject: '', path: '' }): Promise<never> {
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

/** The accounts whose lines a caller may read; null for all. */
const linesOf = async ({ db }: Bussola, { reader, scopes }: Caller): Promise<readonly number[] | null> =>
  scopes === undefined ? lineRight.of(db, reader) : scopes.includes('read-lines') ? null : [];

/** The accounts on whose resources a caller may act; null for all. A key does so in the right that whoever made it has now. */
async function actsOf({ db }: Bussola, { reader, scopes, keyOwner }: Caller): Promise<readonly number[] | null> {
  if (scopes === undefined) return actRight.of(db, reader);
  if (!scopes.includes('act') || keyOwner === undefined || keyOwner === null) return [];
  const owner = await profileOf(db, keyOwner);
  return actRight.of(db, owner?.disabledAt === null ? owner : null);
}

/** All who share a turn: one person, all programs with one key, all who have not signed in. */
const turnOf = ({ reader, author }: Caller) =>
  reader === null
    ? { name: 'nobody', isAnonymous: true }
    : { name: reader.id === 0 ? `key ${author.displayName}` : `person ${reader.id}`, isAnonymous: false };

const nobody = ({ locals }: RequestEvent): Caller => ({
  reader: null,
  author: authorOf(null),
  address: locals.address,
  signedIn: null
});

/** Whoever has signed in, whatever they may do. */
const signedInCaller = ({ locals: { person, address } }: RequestEvent): Caller => ({
  reader: person === null ? null : { id: person.id, role: person.role },
  author: authorOf(person),
  address,
  signedIn: null
});

/** @throws Refusal when who calls may not */
async function callerOf(server: Bussola, operation: Operation, event: RequestEvent): Promise<Caller> {
  const { person, session = null, address } = event.locals;
  const text = bearerOf(event.request);
  if (text !== null) return withKey(server, operation, text, address);
  if (operation.right !== 'anybody') {
    if (person === null)
      throw new Refusal(
        'not-signed-in',
        'You are not signed in, or your session has ended.',
        'Sign in, or send a key that may read as "Authorization: Bearer …".'
      );
    if (!hasRights(person.role, operation.right))
      throw new Refusal(
        'not-allowed',
        `Your role (${person.role}) does not allow this.`,
        'Ask an administrator of this workspace.'
      );
  }
  const signedIn = person === null || session === null ? null : { personId: person.id, sessionKey: session.key };
  return { reader: person, author: authorOf(person), address, signedIn };
}

/** A program with a key reads what every person of the workspace reads, and nothing that is private to some. */
async function withKey(
  { db, clock, uses }: Bussola,
  { right, scope }: Operation,
  text: string,
  address: string
): Promise<Caller> {
  const key = await keyByText(db, text, clock.now());
  if (key === null)
    throw new Refusal('key-refused', 'The key is unknown, revoked or has expired.', 'Make a new one on the page Keys.');
  if (right !== 'anybody' && (scope === null || !key.scopes.includes(scope)))
    throw new Refusal(
      'not-allowed',
      scope === null
        ? 'No key may do this.'
        : `The key ${key.name} lacks the scope "${scope}"; it has ${key.scopes.join(' and ')}.`,
      scope === null ? 'Sign in as a person.' : 'Make a key with this scope on the page Keys.'
    );
  uses.take(key, 0, clock.now()); // when it was last used
  return {
    ...{
      reader: { id: 0, role: 'viewer' },
      author: { id: null, displayName: key.name },
      scopes: key.scopes,
      keyOwner: key.ownerId
    },
    ...{ address, signedIn: null }
  };
}
