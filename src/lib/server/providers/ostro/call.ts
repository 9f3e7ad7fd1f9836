import { z } from 'zod';
import type { Clock } from '$lib/core/time';
import { exchangeBytes, exchangeJson, type Exchanged } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';
import { ProviderError } from '../port/provider';

const tokenSchema = z.object({
  access_token: z.string().min(1).max(4000),
  expires_in: z.number().positive()
});

/** A token is replaced this long before it runs out, so that none runs out on its way. */
const marginMs = 30_000;

interface CachedToken {
  readonly token: string;
  readonly until: number;
}

/**
 * Calls to Ostro with the bearer token of an account's client credentials (RFC 6749, section 4.4). A token is requested when it is first needed, shared by
 * calls at the same time, and replaced before it runs out or once it is refused.
 */
export class OstroCalls {
  readonly #clock: Clock;
  readonly #cached = new Map<string, Promise<CachedToken>>();

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  /** @throws ProviderError for whatever goes wrong */
  get<T>(
    access: ProviderAccess,
    path: string,
    schema: z.ZodType<T>,
    method: 'GET' | 'POST' | 'PUT' = 'GET',
    body: unknown = null
  ): Promise<T> {
    return this.#withToken(access, (authorization) => {
      const headers: Record<string, string> = { accept: 'application/json', authorization };
      if (body !== null) headers['content-type'] = 'application/json';
      const text = body === null ? null : JSON.stringify(body);
      return exchangeJson(this.#clock, access, path, () => ({ method, headers, body: text }), schema);
    });
  }

  /** {@link get}, the answer as it came. */
  bytes(access: ProviderAccess, path: string): Promise<Exchanged> {
    return this.#withToken(access, (authorization) =>
      exchangeBytes(this.#clock, access, path, () => ({ headers: { authorization } }))
    );
  }

  async #withToken<T>(access: ProviderAccess, send: (authorization: string) => Promise<T>): Promise<T> {
    const ask = async () => send(`Bearer ${(await this.#token(access)).token}`);
    try {
      return await ask();
    } catch (error) {
      if (!(error instanceof ProviderError && error.code === 'signature')) throw error;
      if (!this.#cached.delete(nameOf(access))) throw error;
      return ask(); // with a token of now: this one may have been ended early
    }
  }

  async #token(access: ProviderAccess): Promise<CachedToken> {
    const name = nameOf(access);
    const cached = await this.#cached.get(name)?.catch(() => null);
    if (cached && cached.until - marginMs > this.#clock.now()) return cached;
    const pending = this.#ask(access);
    this.#cached.set(name, pending);
    pending.catch(() => this.#cached.delete(name));
    return pending;
  }

  async #ask(access: ProviderAccess): Promise<CachedToken> {
    const body = new URLSearchParams({
      grant_type: 'client_credentials',
      client_id: access.keyId,
      client_secret: access.secret
    });
    const init = () => ({ method: 'POST', body, headers: { accept: 'application/json' } });
    const { access_token: token, expires_in: seconds } = await exchangeJson(
      this.#clock,
      access,
      '/token',
      init,
      tokenSchema
    );
    return { token, until: this.#clock.now() + seconds * 1000 };
  }
}

/** The secret is part of it: with another secret, another token. */
const nameOf = ({ endpoint, keyId, secret }: ProviderAccess): string => [endpoint, keyId, secret].join('\n');
