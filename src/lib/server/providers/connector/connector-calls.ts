import LinkHeader from 'http-link-header';
import type { Connector, ConnectorPages, ConnectorRequest } from '$lib/core/connector';
import { Refusal } from '$lib/core/problem/problem';
import { textFromInstant, type Clock } from '$lib/core/time';
import { exchangeBytes, malformed, type Exchanged } from '../port/exchange';
import { ProviderError, type ProviderAccess } from '../port/provider';
import type { ConnectorPool } from './connector-pool';
import { observed, type Observe } from './observed';
import { signingIn, type SignsIn } from './sign-in';
import type { Bindings, Prelude } from './expressions/evaluate';
import type { MapAs, MappedAnswer, PreparedRequest } from './expressions/tasks';

/** Pages of one answer at most. */
const mostPages = 10_000;

/** An answer, and what it was asked for by. */
export interface Sent extends Exchanged {
  /** Below the address of the account. */
  readonly path: string;
}

/** What is called, and how its answers are read. */
export interface Listed {
  readonly request: ConnectorRequest;
  readonly pages?: ConnectorPages | undefined;
  readonly each: string;
  readonly map?: string | undefined;
}

/** What a connector's calls are made with. */
export interface ConnectorParts {
  readonly clock: Clock;
  readonly connector: Connector;
  readonly pool: ConnectorPool;
  /** Sees each request and its answer, without what is secret. */
  readonly observe?: Observe;
}

/** The calls of a connector: each filled in and signed, its answer mapped, page by page. They go to the address of the account and below it, nowhere else. */
export class ConnectorCalls {
  readonly prelude: Prelude;
  readonly #parts: ConnectorParts;
  readonly #signs: SignsIn;

  constructor(parts: ConnectorParts) {
    const { values, functions, signIn } = parts.connector;
    this.#parts = parts;
    this.prelude = { values, functions };
    this.#signs = signingIn(parts.clock, signIn);
  }

  /** What has a name in every expression. */
  bindings(access: ProviderAccess, more: Bindings): Bindings {
    return { now: textFromInstant(this.#parts.clock.now()), key: access.keyId, ...more };
  }

  /** @throws ProviderError for whatever goes wrong */
  async send(access: ProviderAccess, request: ConnectorRequest, bindings: Bindings): Promise<Sent> {
    return this.#sendTo(access, await inWords(this.#parts.pool.prepare(this.prelude, request, bindings)));
  }

  /** Single values of an answer. @throws ProviderError */
  take(
    { bytes, path }: Pick<Sent, 'bytes' | 'path'>,
    take: Readonly<Record<string, string>>,
    bindings: Bindings
  ): Promise<Readonly<Record<string, unknown>>> {
    return inWords(this.#parts.pool.take(this.prelude, { body: bytes, path, take, bindings }));
  }

  /** The mapped things of an answer. @throws ProviderError */
  map(
    { bytes, path }: Pick<Sent, 'bytes' | 'path'>,
    { each, map }: Pick<Listed, 'each' | 'map'>,
    as: MapAs,
    bindings: Bindings,
    take: Readonly<Record<string, string>> = {}
  ): Promise<MappedAnswer> {
    const task = { ...as, body: bytes, path, each, ...(map !== undefined && { map }), take, bindings };
    return inWords(this.#parts.pool.map(this.prelude, task));
  }

  /**
   * Mapped answers, page by page.
   *
   * @param take single values of each page
   * @throws ProviderError for whatever goes wrong, and pages that do not end
   */
  async *pages(
    access: ProviderAccess,
    listed: Listed,
    as: MapAs,
    more: Bindings,
    take: Readonly<Record<string, string>> = {}
  ): AsyncGenerator<MappedAnswer> {
    const { request, pages } = listed;
    const seen = new Set<string>();
    let page = await this.#firstPage(access, pages, more);
    let next: string | null = null;
    for (let count = 0; count < mostPages; count++) {
      const bindings = this.bindings(access, { ...more, ...(page !== undefined && { page }) });
      const prepared = await inWords(this.#parts.pool.prepare(this.prelude, request, bindings));
      const sent = await this.#sendTo(access, next === null ? prepared : { ...prepared, path: next });
      const going: Record<string, string> =
        pages?.by === 'token' ? { next: pages.next } : pages?.by === 'number' ? { next: pages.more } : {};
      const mapped = await this.map(sent, listed, as, bindings, { ...take, ...going });
      yield mapped;
      if (pages === undefined) return;
      if (pages.by === 'link') {
        next = nextLink(access, sent);
        if (next === null) return;
      } else if (!isThere(mapped.taken['next'])) return;
      else page = pages.by === 'token' ? mapped.taken['next'] : Number(page) + 1;
      const name = JSON.stringify([next, page]);
      if (seen.has(name)) throw malformed('The provider’s pages lead back to themselves.');
      seen.add(name);
    }
    throw malformed(`The provider’s pages do not end: there were ${mostPages}.`);
  }

  /** {@link pages}, once for each thing of another list where there is one. */
  async *pagesOver(
    access: ProviderAccess,
    listed: Listed & { readonly over?: Listed | undefined },
    as: MapAs
  ): AsyncGenerator<MappedAnswer> {
    if (listed.over === undefined) {
      yield* this.pages(access, listed, as, {});
      return;
    }
    for await (const { found } of this.pages(access, listed.over, { as: 'things' }, {}))
      for (const of of found.items as readonly unknown[]) yield* this.pages(access, listed, as, { of });
  }

  async #firstPage(access: ProviderAccess, pages: ConnectorPages | undefined, more: Bindings): Promise<unknown> {
    if (pages?.by === 'number') return pages.first;
    if (pages?.by !== 'token' || pages.first === undefined) return undefined;
    const none = { bytes: Buffer.from('{}'), path: '' };
    return (await this.take(none, { first: pages.first }, this.bindings(access, more)))['first'];
  }

  #sendTo(access: ProviderAccess, { method, path, headers: given, body }: PreparedRequest): Promise<Sent> {
    const { clock, connector, observe } = this.#parts;
    const plain: Record<string, string> = { accept: 'application/json', ...given };
    if (body !== null) plain['content-type'] = 'application/json';
    stayingBelow(access, path);
    const watched = observed(clock, connector.limits, access, plain, observe);
    return this.#signs.send(watched, async (signed) => {
      const init = async (url: string) => ({
        method,
        headers: await signed({ method, url, headers: plain, body }),
        body
      });
      return { ...(await exchangeBytes(clock, watched, path, init)), path };
    });
  }
}

const isThere = (value: unknown): boolean => value !== undefined && value !== null && value !== '' && value !== false;

/** The address of the account, with a slash at its end. */
const baseOf = ({ endpoint }: ProviderAccess): URL => new URL(`${endpoint.replace(/\/+$/, '')}/`);

/** @throws ProviderError where a path would lead out of the address of the account */
function stayingBelow(access: ProviderAccess, path: string): void {
  const base = baseOf(access);
  const whole = `${base.href.slice(0, -1)}${path}`;
  const url = URL.canParse(whole) ? new URL(whole) : null;
  if (!path.startsWith('/') || url?.origin !== base.origin || !url.pathname.startsWith(base.pathname))
    throw new ProviderError(
      'refused',
      `${path.slice(0, 100)} is not below the address of the account.`,
      'Correct the path in the connector.'
    );
}

/** Where the next page is, below the address of the account; null on the last. */
function nextLink(access: ProviderAccess, { headers, path }: Sent): string | null {
  const given = headers.get('link');
  if (given === null) return null;
  const base = baseOf(access);
  const found = linksOf(given).rel('next')[0]?.uri;
  if (found === undefined) return null;
  const here = new URL(`${base.href.slice(0, -1)}${path}`);
  const next = URL.canParse(found, here) ? new URL(found, here) : null;
  if (next?.origin !== base.origin || !next.pathname.startsWith(base.pathname))
    throw malformed('The provider’s next page is at another address than the account’s.');
  return next.pathname.slice(base.pathname.length - 1) + next.search;
}

function linksOf(text: string): LinkHeader {
  try {
    return LinkHeader.parse(text.slice(0, 8000));
  } catch {
    throw malformed('The header Link of the provider’s answer cannot be read.');
  }
}

/** What a connector’s expressions are refused for, as what a provider's call may end with. */
async function inWords<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (!(error instanceof Refusal) || error instanceof ProviderError) throw error;
    const code = error.code === 'busy' ? 'unavailable' : 'malformed';
    throw new ProviderError(code, error.message, error.remedy, { cause: error });
  }
}
