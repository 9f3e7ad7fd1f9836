import type { z } from 'zod';
import type { Clock } from '$lib/core/time';
import { exchangeBytes, exchangeJson, type Exchanged } from '../port/exchange';
import { ClientCredentials } from '../port/client-credentials';
import type { ProviderAccess } from '../port/provider';

/** Calls to Ostro with the bearer token of an account's client credentials. */
export class OstroCalls {
  readonly #clock: Clock;
  readonly #tokens: ClientCredentials;

  constructor(clock: Clock) {
    this.#clock = clock;
    this.#tokens = new ClientCredentials(clock, () => ({ path: '/token' }));
  }

  /** @throws ProviderError for whatever goes wrong */
  get<T>(
    access: ProviderAccess,
    path: string,
    schema: z.ZodType<T>,
    method: 'GET' | 'POST' | 'PUT' = 'GET',
    body: unknown = null
  ): Promise<T> {
    return this.#tokens.with(access, (authorization) => {
      const headers: Record<string, string> = { accept: 'application/json', authorization };
      if (body !== null) headers['content-type'] = 'application/json';
      const text = body === null ? null : JSON.stringify(body);
      return exchangeJson(this.#clock, access, path, () => ({ method, headers, body: text }), schema);
    });
  }

  /** {@link get}, the answer as it came. */
  bytes(access: ProviderAccess, path: string): Promise<Exchanged> {
    return this.#tokens.with(access, (authorization) =>
      exchangeBytes(this.#clock, access, path, () => ({ headers: { authorization } }))
    );
  }
}
