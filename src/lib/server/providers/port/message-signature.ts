import { createHash } from 'node:crypto';
import { createSigner, httpbis } from 'http-message-signatures';
import type { Clock } from '$lib/core/time';
import type { ProviderAccess } from './provider';

/** What is signed. */
export interface SignedMessage {
  readonly method: string;
  readonly url: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}

/**
 * The headers of a signed request (RFC 9421, hmac-sha256), those of the request among them; of a body its digest (RFC 9530).
 *
 * @param label under which the signature stands
 * @param fields that are signed; the digest only where there is a body
 * @example await signedHeaders(clock, access, { method: 'GET', url, headers: {}, body: null }, 'bussola', ['@method', '@target-uri'])
 */
export async function signedHeaders(
  clock: Clock,
  { keyId, secret }: Pick<ProviderAccess, 'keyId' | 'secret'>,
  { method, url, headers: given, body }: SignedMessage,
  label: string,
  fields: readonly string[]
): Promise<Record<string, string>> {
  const headers: Record<string, string> = { ...given };
  if (body !== null) headers['content-digest'] = `sha-256=:${createHash('sha256').update(body).digest('base64')}:`;
  const message = await httpbis.signMessage(
    {
      key: { ...createSigner(secret, 'hmac-sha256'), id: keyId },
      name: label,
      fields: fields.filter((field) => field !== 'content-digest' || body !== null),
      params: ['created', 'keyid', 'alg'],
      paramValues: { created: new Date(clock.now()) }
    },
    { method, url, headers }
  );
  return message.headers;
}
