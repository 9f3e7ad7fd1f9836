import { createHash } from 'node:crypto';
import { createSigner, httpbis } from 'http-message-signatures';
import type { z } from 'zod';
import type { Clock } from '$lib/core/time';
import { exchangeJson } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';

/**
 * One signed call (RFC 9421, hmac-sha256) to Levante, its answer checked against a schema.
 *
 * @throws ProviderError for whatever goes wrong
 * @example await callLevante(clock, access, 'GET', '/v1/resources', null, resourcesSchema)
 */
export function callLevante<T>(
  clock: Clock,
  access: ProviderAccess,
  method: 'GET' | 'POST',
  path: string,
  body: unknown,
  schema: z.ZodType<T>
): Promise<T> {
  const text = body === null ? null : JSON.stringify(body);
  const signed = async (url: string): Promise<RequestInit> => {
    const headers: Record<string, string> = { accept: 'application/json' };
    if (text !== null) {
      headers['content-type'] = 'application/json';
      headers['content-digest'] = `sha-256=:${createHash('sha256').update(text).digest('base64')}:`;
    }
    const message = await httpbis.signMessage(
      {
        key: { ...createSigner(access.secret, 'hmac-sha256'), id: access.keyId },
        name: 'bussola',
        fields: ['@method', '@target-uri', ...(text === null ? [] : ['content-digest'])],
        params: ['created', 'keyid', 'alg'],
        paramValues: { created: new Date(clock.now()) }
      },
      { method, url, headers }
    );
    return { method, headers: message.headers, body: text };
  };
  return exchangeJson(clock, access, path, signed, schema);
}
