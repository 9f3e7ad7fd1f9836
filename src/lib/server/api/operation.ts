import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import type { Role } from '$lib/core/people/rights';
import type { Instant } from '$lib/core/time';
import type { Author } from '../boards/boards';
import type { KeyScope } from '$lib/core/people/key-scopes';
import type { Bussola } from '../process/start';
import type { Reader } from '../query/query-queue';
import { pageQuery, type Page, type PagedList } from './paging';

/** How instants are written in answers: as RFC 3339, or as milliseconds since the epoch. */
export const timeFormats = ['rfc3339', 'epoch'] as const;
export type TimeFormat = (typeof timeFormats)[number];

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** Who calls, as far as boards and names of authors are concerned: a person, or a program with a key. */
export interface Caller {
  /** Null for somebody who has not signed in. */
  readonly reader: { readonly id: number; readonly role: Role } | null;
  readonly author: Author;
  readonly address: string;
  /** What its key may do; only of a program. */
  readonly scopes?: readonly KeyScope[];
  /** Whoever made the key; null where they are gone. */
  readonly keyOwner?: number | null;
  /** The person with their sign-in; null for a program with a key, and for somebody who has not signed in. */
  readonly signedIn: { readonly personId: number; readonly sessionKey: string } | null;
}

/** One call of an operation: what was sent, read by the schemas of the operation, and by whom. */
export interface Call<Params, Query, Body> extends Caller {
  readonly server: Bussola;
  readonly params: Params;
  readonly query: Query;
  readonly body: Body;
  /** The page of its list; all of it where it has none. */
  readonly page: Page;
  readonly times: TimeFormat;
  readonly request: Request;
  /** The accounts whose lines the caller may read; null for all. @throws Refusal `not-allowed` where there are none */
  readonly lineAccounts: () => Promise<readonly number[] | null>;
  /** The accounts on whose resources the caller may act; null for all. */
  readonly actAccounts: () => Promise<readonly number[] | null>;
  /** Does work in the caller's turn, or in that of all who have a link, as anonymous; the work ends when the caller's connection does. */
  readonly inTurn: <Result>(work: (reader: Reader) => Promise<Result>, link?: string) => Promise<Result>;
}

/** One operation of the API: routes, rights, documentation and checks of requests all come from it. */
export interface Operation {
  readonly method: Method;
  /** Below `/api/v1`, with parameters in braces: `/boards/{id}`. */
  readonly path: string;
  /** The least role that may call it with a sign-in; `anybody` needs none. */
  readonly right: Role | 'anybody';
  /** The scope with which a key may call it; null when none may. Where nothing is said, what editors do needs `change`, and what administrators do `administer`. */
  readonly scope: KeyScope | null;
  /** Whether it reads the key and the body by itself, as what receives samples does. */
  readonly isRaw: boolean;
  readonly tag: string;
  readonly summary: string;
  readonly params: z.ZodObject;
  readonly query: z.ZodObject;
  readonly body: z.ZodType | null;
  /** Bytes that the body may have. */
  readonly mostBytes: number | undefined;
  readonly answer: z.ZodType | null;
  /** Media types of its answers that are no JSON. */
  readonly types: readonly string[];
  readonly status: 200 | 201 | 202 | 204;
  /** The list that its answer has, which goes on in pages. */
  readonly list: PagedList | null;
  /** Whether its body is a file, which it reads by itself. */
  readonly takesFile: boolean;
  /** Whether it reads an Idempotency-Key by itself: what it does goes on after its answer. */
  readonly ownsKey: boolean;
  /** Whether it is recorded that somebody did it: what changes something, and what carries data out of Bussola. */
  readonly isAct: boolean;
  /** The answer, or a response that is sent as it is. */
  handle(call: Call<never, never, never>): Promise<unknown>;
}

/** Operations have a number in their path as their id unless they say otherwise. */
export const idParams = z.strictObject({ id: z.coerce.number().pipe(idSchema) });
const none = z.strictObject({});

/** What an answer may be made of: its lists need not be changeable. */
type Readable<T> = T extends readonly (infer One)[]
  ? readonly Readable<One>[]
  : T extends object
    ? { readonly [Key in keyof T]: Readable<T[Key]> }
    : T;

/** What an operation is made of; see {@link Operation}. */
interface Definition<
  Params extends z.ZodObject,
  Query extends z.ZodObject,
  Body extends z.ZodType,
  Answer extends z.ZodType
> {
  readonly right: Operation['right'];
  readonly scope?: KeyScope | null;
  readonly isRaw?: boolean;
  readonly summary: string;
  readonly params?: Params;
  readonly query?: Query;
  readonly body?: Body;
  readonly mostBytes?: number;
  readonly answer?: Answer;
  readonly types?: readonly string[];
  readonly list?: PagedList;
  readonly status?: Operation['status'];
  readonly takesFile?: boolean;
  readonly ownsKey?: boolean;
  readonly isAct?: boolean;
  handle(call: Call<z.output<Params>, z.output<Query>, z.output<Body>>): Promise<Readable<z.output<Answer>> | Response>;
}

/** What a query has besides where a list goes on in pages. */
const withPages = (query: z.ZodObject, list: PagedList | undefined): z.ZodObject =>
  list === undefined ? query : query.safeExtend(pageQuery(list));

/** Whether there is nothing in the answer. */
const answersNothing = (made: { readonly answer?: unknown; readonly types?: unknown; readonly isRaw?: boolean }) =>
  made.answer === undefined && made.types === undefined && made.isRaw !== true;

const usualScope = (right: Operation['right']): KeyScope | null =>
  right === 'editor' ? 'change' : right === 'administrator' ? 'administer' : null;

/**
 * Defines operations that belong together.
 *
 * @param tag under which they are documented
 * @example
 * const operation = operationsOf('Signals');
 * operation('GET', '/signals', { right: 'viewer', scope: 'read', summary: 'Lists signals.', answer, handle: async ({ server }) => … })
 */
export const operationsOf =
  (tag: string) =>
  <
    const Address extends string,
    Params extends z.ZodObject = Address extends `${string}{id}${string}` ? typeof idParams : typeof none,
    Query extends z.ZodObject = typeof none,
    Body extends z.ZodType = z.ZodNull,
    Answer extends z.ZodType = z.ZodVoid
  >(
    method: Method,
    path: Address,
    definition: Definition<Params, Query, Body, Answer>
  ): Operation => ({
    method,
    path,
    tag,
    right: definition.right,
    scope: definition.scope === undefined ? usualScope(definition.right) : definition.scope,
    isRaw: definition.isRaw ?? false,
    summary: definition.summary,
    params: definition.params ?? (path.includes('{id}') ? idParams : none),
    list: definition.list ?? null,
    query: withPages(definition.query ?? none, definition.list),
    body: definition.body ?? null,
    mostBytes: definition.mostBytes,
    takesFile: definition.takesFile ?? false,
    ownsKey: definition.ownsKey ?? false,
    answer: definition.answer ?? null,
    types: definition.types ?? [],
    status: definition.status ?? (answersNothing(definition) ? 204 : 200),
    isAct: definition.isAct ?? (method !== 'GET' && definition.scope?.startsWith('read') !== true),
    handle: (call) => definition.handle(call)
  });

/** Whether a request may be sent again with its Idempotency-Key, and its first answer is given again. A file is not remembered: it is replaced by itself. */
export const mayRepeat = ({ method, isAct, isRaw, takesFile, ownsKey }: Operation): boolean =>
  method === 'POST' && isAct && !isRaw && !takesFile && !ownsKey;

/** An instant in an answer: milliseconds since the epoch here, RFC 3339 as it is sent. */
export const instant = z.codec(z.iso.datetime({ offset: true }), z.custom<Instant>(), {
  decode: (text) => Date.parse(text) as Instant,
  encode: (at) => new Date(at).toISOString()
});

/** Schemas by which parts of answers are documented that are sent as they are stored. */
export const documentedBy = new WeakMap<z.ZodType, z.ZodType>();

/** A part of an answer that is sent as it is stored, documented by the schema that it was read by. @example asStored<Signal>(signalSchema) */
export function asStored<Stored>(schema: z.ZodType): z.ZodCustom<Stored, Stored> {
  const stored = z.custom<Stored>();
  documentedBy.set(stored, schema);
  return stored;
}
