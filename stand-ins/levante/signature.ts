import { createHash, timingSafeEqual } from 'node:crypto';
import { createVerifier, httpbis } from 'http-message-signatures';
import { credentials, type Credential } from './world';

export type Verdict =
  | { readonly kind: 'accepted'; readonly credential: Credential }
  | { readonly kind: 'clock'; readonly created: number }
  | { readonly kind: 'refused'; readonly reason: string };

/** How far a request's `created` may lie from Levante's clock. */
const toleratedSeconds = 300;

export interface SignedRequest {
  readonly method: string;
  readonly url: string;
  readonly headers: Record<string, string | string[]>;
  readonly body: Buffer | null;
}

/**
 * Checks an HTTP Message Signature (RFC 9421, hmac-sha256) over method, target and, when there is a body, its digest (RFC 9530).
 *
 * @param now Levante's clock, milliseconds since the epoch
 * @example (await verify(request, now)).kind // 'accepted'
 */
export async function verify(request: SignedRequest, now: number): Promise<Verdict> {
  let credential: Credential | undefined;
  let created: number | undefined;
  const fields = ['@method', '@target-uri', ...(request.body ? ['content-digest'] : [])];
  if (request.body && !digestMatches(request.body, request.headers['content-digest']))
    return { kind: 'refused', reason: 'The body does not match its Content-Digest.' };
  try {
    const accepted = await httpbis.verifyMessage(
      {
        keyLookup: (parameters) => {
          credential = credentials.find(({ keyId }) => keyId === parameters.keyid);
          created = parameters.created?.getTime();
          const key = credential && {
            id: credential.keyId,
            algs: ['hmac-sha256'],
            verify: createVerifier(credential.secret, 'hmac-sha256')
          };
          return Promise.resolve(key ?? null);
        },
        requiredFields: fields,
        requiredParams: ['keyid', 'created', 'alg'],
        // The library would compare with the machine's clock; ours is compared below.
        notAfter: new Date(8.64e15)
      },
      request
    );
    if (accepted === null && created === undefined) return { kind: 'refused', reason: 'The request is not signed.' };
    if (!credential) return { kind: 'refused', reason: 'No such key id.' };
    if (accepted !== true)
      return { kind: 'refused', reason: 'The signature does not match: the secret is not the one of this key id.' };
  } catch (error) {
    return {
      kind: 'refused',
      reason: `The signature cannot be read: ${error instanceof Error ? error.message : String(error)}`
    };
  }
  if (created === undefined || Math.abs(created - now) > toleratedSeconds * 1000)
    return { kind: 'clock', created: created ?? 0 };
  return { kind: 'accepted', credential };
}

function digestMatches(body: Buffer, header: string | string[] | undefined): boolean {
  const given = Buffer.from(/sha-256=:([A-Za-z0-9+/=]+):/.exec(String(header))?.[1] ?? '', 'base64');
  const real = createHash('sha256').update(body).digest();
  return given.length === real.length && timingSafeEqual(given, real);
}
