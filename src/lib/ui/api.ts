import { problemCodes, type Problem } from '$lib/core/problem/problem';

/** What became of a call of the API. */
export type Reply<Answer> =
  | { readonly kind: 'answered'; readonly answer: Answer }
  | { readonly kind: 'refused'; readonly problem: Problem }
  | { readonly kind: 'cancelled' };

export interface CallOptions {
  readonly body?: object;
  /** Parameters of the address; those that are undefined are left out. */
  readonly query?: Readonly<Record<string, string | undefined>>;
  /** Cancels the call. */
  readonly signal?: AbortSignal;
  /** By which an order that is sent again is known; a UUID. */
  readonly key?: string;
  /** Whether the call continues when the page is left. */
  readonly keepalive?: boolean;
}

/**
 * Calls the API. Whatever goes wrong comes back as a problem, also when Bussola cannot be reached.
 *
 * @param path below `/api/v1`
 * @example const reply = await callApi<{ id: number }>('POST', '/boards', { body: { title } });
 */
export async function callApi<Answer = unknown>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  path: string,
  options: CallOptions = {}
): Promise<Reply<Answer>> {
  return called(method, path, options, {}, async (response) =>
    response.status === 204 ? (undefined as Answer) : ((await response.json()) as Answer)
  );
}

/** {@link callApi} for an answer as CSV. */
export const callForCsv = (path: string, body: object): Promise<Reply<string>> =>
  called('POST', path, { body }, { accept: 'text/csv' }, (response) => response.text());

/** {@link callApi} with a file as the body. */
export const callWithFile = <Answer>(
  path: string,
  file: Blob,
  query: Readonly<Record<string, string | undefined>> = {}
): Promise<Reply<Answer>> =>
  called('POST', path, { file, query }, {}, async (response) => (await response.json()) as Answer);

async function called<Answer>(
  method: string,
  path: string,
  { body, file, query = {}, signal, key, keepalive = false }: CallOptions & { readonly file?: Blob },
  headers: Readonly<Record<string, string>>,
  read: (response: Response) => Promise<Answer>
): Promise<Reply<Answer>> {
  const given = Object.entries(query).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]]));
  const address = `/api/v1${path}${given.length === 0 ? '' : `?${new URLSearchParams(given).toString()}`}`;
  try {
    const response = await fetch(address, {
      method,
      keepalive,
      headers: {
        ...headers,
        prefer: 'times=epoch',
        ...(body && { 'content-type': 'application/json' }),
        ...(key !== undefined && { 'idempotency-key': `"${key}"` })
      },
      ...(body && { body: JSON.stringify(body) }),
      ...(file && { body: file }),
      ...(signal && { signal })
    });
    if (response.ok) return { kind: 'answered', answer: await read(response) };
    return { kind: 'refused', problem: problemIn(await response.json().catch(() => null)) };
  } catch (error) {
    if (signal?.aborted) return { kind: 'cancelled' };
    if (!(error instanceof TypeError)) throw error;
    return { kind: 'refused', problem: offline };
  }
}

const offline: Problem = {
  code: 'offline',
  message: 'Bussola could not be reached.',
  remedy: 'Check the connection and try again.'
};

/** The problem that an answer holds; of one that holds none, such as a proxy's, that there was no answer. */
const problemIn = (answer: unknown): Problem =>
  typeof answer === 'object' && answer !== null && 'code' in answer && String(answer.code) in problemCodes
    ? (answer as Problem)
    : { code: 'internal', message: 'Bussola could not answer.', remedy: 'Try again in a moment.' };

/** A problem in one text: of several things that are wrong, the first. @example wordsOf(reply.problem) // 'There is no such board. …' */
export const wordsOf = ({ message, remedy, problems }: Problem): string =>
  problems?.[0]?.message ?? `${message} ${remedy}`.trim();

/** The answer of a call; null when it was refused or cancelled, where that is shown elsewhere. */
export const answerOrNull = <Answer>(reply: Reply<Answer>): Answer | null =>
  reply.kind === 'answered' ? reply.answer : null;
