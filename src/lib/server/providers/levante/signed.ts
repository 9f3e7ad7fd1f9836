import type { z } from 'zod';
import type { Clock } from '$lib/core/time';
import { exchangeBytes, exchangeJson, type Exchanged } from '../port/exchange';
import { signedHeaders } from '../port/message-signature';
import type { ProviderAccess } from '../port/provider';

/**
 * One signed call (RFC 9421, hmac-sha256) to Levante, its answer checked against a schema.
 *
 * @param more headers, which are signed as well
 * @throws ProviderError for whatever goes wrong
 * @example await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema)
 */
export function callLevante<T>(
  clock: Clock,
  access: ProviderAccess,
  method: 'GET' | 'POST',
  path: string,
  body: unknown,
  schema: z.ZodType<T>,
  more: Readonly<Record<string, string>> = {}
): Promise<T> {
  return exchangeJson(clock, access, path, signedBy(clock, access, method, body, more), schema);
}

/** {@link callLevante}, its answer as it came. */
export const sendLevante = (
  clock: Clock,
  access: ProviderAccess,
  method: 'GET' | 'POST',
  path: string,
  body: unknown
): Promise<Exchanged> => exchangeBytes(clock, access, path, signedBy(clock, access, method, body));

/** Signs a request anew for each try. */
function signedBy(
  clock: Clock,
  access: ProviderAccess,
  method: 'GET' | 'POST',
  body: unknown,
  more: Readonly<Record<string, string>> = {}
): (url: string) => Promise<RequestInit> {
  const text = body === null ? null : JSON.stringify(body);
  return async (url) => {
    const headers: Record<string, string> = { accept: 'application/json', ...more };
    if (text !== null) headers['content-type'] = 'application/json';
    const fields = ['@method', '@target-uri', 'content-digest', ...Object.keys(more)];
    return {
      method,
      headers: await signedHeaders(clock, access, { method, url, headers, body: text }, 'bussola', fields),
      body: text
    };
  };
}
