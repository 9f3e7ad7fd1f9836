import { z } from 'zod';
import type { Clock } from '$lib/core/time';
import { exchangeJson } from './exchange';
import { ProviderError, type ProviderAccess } from './provider';

const tokenSchema = z.object({
  access_token: z.string().min(1).max(8000),
  expires_in: z.number().positive().default(300)
});

/** A token is replaced this long before it runs out, so that none runs out on its way. */
const marginMs = 30_000;

interface CachedToken {
  readonly token: string;
  readonly until: number;
}

/** How a token is requested. */
export interface TokenRequest {
  /** Where it is requested, if not at the address of the account. */
  readonly endpoint?: string;
  /** Below that address. */
  readonly path: string;
  readonly scope?: string | undefined;
  /** Where the key and its secret stand. */
  readonly sentIn?: 'body' | 'header';
}

/**
 * Bearer tokens of accounts by their client credentials (RFC 6749, section 4.4). A token is requested when it is first needed, shared by calls at the same
 * time, and replaced before it runs out or once it is refused.
 */
export class ClientCredentials {
  readonly #cached = new Map<string, Promise<CachedToken>>();

  constructor(
    private readonly clock: Clock,
    private readonly requestOf: (access: ProviderAccess) => Promise<TokenRequest> | TokenRequest
  ) {}

  /** Sends something with a token, and once more with a new one where it was refused: it may have been ended early. @throws ProviderError */
  async with<T>(access: ProviderAccess, send: (authorization: string) => Promise<T>): Promise<T> {
    const ask = async () => send(`Bearer ${(await this.#token(access)).token}`);
    try {
      return await ask();
    } catch (error) {
      if (!(error instanceof ProviderError && error.code === 'signature')) throw error;
      if (!this.#cached.delete(nameOf(access))) throw error;
      return ask();
    }
  }

  async #token(access: ProviderAccess): Promise<CachedToken> {
    const name = nameOf(access);
    const cached = await this.#cached.get(name)?.catch(() => null);
    if (cached && cached.until - marginMs > this.clock.now()) return cached;
    const pending = this.#ask(access);
    this.#cached.set(name, pending);
    pending.catch(() => this.#cached.delete(name));
    return pending;
  }

  async #ask(access: ProviderAccess): Promise<CachedToken> {
    const { endpoint = access.endpoint, path, scope, sentIn = 'body' } = await this.requestOf(access);
    const body = new URLSearchParams({ grant_type: 'client_credentials' });
    const headers: Record<string, string> = { accept: 'application/json' };
    if (sentIn === 'body') {
      body.set('client_id', access.keyId);
      body.set('client_secret', access.secret);
    } else headers['authorization'] = basicOf(encodeURIComponent(access.keyId), encodeURIComponent(access.secret));
    if (scope !== undefined) body.set('scope', scope);
    const init = () => ({ method: 'POST', body, headers });
    const { access_token: token, expires_in: seconds } = await exchangeJson(
      this.clock,
      { ...access, endpoint },
      path,
      init,
      tokenSchema
    );
    return { token, until: this.clock.now() + seconds * 1000 };
  }
}

/** A name and a password as a header has them (RFC 7617). @example basicOf('a', 'b') // 'Basic YTpi' */
export const basicOf = (name: string, password: string): string =>
  `Basic ${Buffer.from(`${name}:${password}`).toString('base64')}`;

/** The secret is part of it: with another secret, another token. */
const nameOf = ({ endpoint, keyId, secret }: ProviderAccess): string => [endpoint, keyId, secret].join('\n');
