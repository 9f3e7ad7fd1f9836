import { createHash, createHmac } from 'node:crypto';
import { z } from 'zod';
import type { ConnectorSignIn } from '$lib/core/connector';
import { textFromInstant, type Clock } from '$lib/core/time';
import { basicOf, ClientCredentials, type TokenRequest } from '../port/client-credentials';
import { exchangeJson, malformed } from '../port/exchange';
import { signedHeaders, type SignedMessage } from '../port/message-signature';
import type { ProviderAccess } from '../port/provider';

/** Makes requests of an account that show whose they are. */
export interface SignsIn {
  /** Sends something with the headers that a message gets; where a token was refused, once more with a new one. */
  send<T>(
    access: ProviderAccess,
    send: (signed: (message: SignedMessage) => Promise<Record<string, string>>) => Promise<T>
  ): Promise<T>;
}

/**
 * How a connector signs in. What is secret stands in the headers that this gives and nowhere else.
 *
 * @example await signingIn(clock, { by: 'basic' }).send(access, (signed) => …)
 */
export function signingIn(clock: Clock, signIn: ConnectorSignIn): SignsIn {
  if (signIn.by === 'client-credentials') {
    const tokens = new ClientCredentials(clock, (access) => tokenRequest(clock, access, signIn));
    return {
      send: (access, send) =>
        tokens.with(access, (authorization) => send(({ headers }) => Promise.resolve({ ...headers, authorization })))
    };
  }
  return { send: (access, send) => send((message) => signed(clock, signIn, access, message)) };
}

async function signed(
  clock: Clock,
  signIn: Exclude<ConnectorSignIn, { by: 'client-credentials' }>,
  access: ProviderAccess,
  message: SignedMessage
): Promise<Record<string, string>> {
  const { keyId: key, secret } = access;
  switch (signIn.by) {
    case 'nothing':
      return { ...message.headers };
    case 'header':
      return { ...message.headers, [signIn.header.toLowerCase()]: filled(signIn.value, { key, secret }) };
    case 'basic':
      return { ...message.headers, authorization: basicOf(key, secret) };
    case 'signature':
      return signedHeaders(clock, access, message, signIn.label, signIn.fields);
    case 'hmac': {
      const url = new URL(message.url);
      const now = clock.now();
      const time =
        signIn.time === 'text'
          ? textFromInstant(now)
          : String(signIn.time === 'seconds' ? Math.floor(now / 1000) : now);
      const body = message.body ?? '';
      const over = filled(signIn.over, {
        ...{ key, time, body, method: message.method, path: url.pathname, query: url.search.slice(1) },
        bodyDigest: createHash(signIn.hash).update(body).digest('hex')
      });
      const signature = createHmac(signIn.hash, secret).update(over).digest(signIn.encoding);
      const headers = Object.entries(signIn.headers).map(([name, template]) => [
        name.toLowerCase(),
        filled(template, { key, time, signature })
      ]);
      return { ...message.headers, ...(Object.fromEntries(headers) as Record<string, string>) };
    }
  }
}

/** Names in braces, as what they stand for; others stay as they are. @example filled('{key}:{signature}', { key: 'a', signature: 'b' }) // 'a:b' */
const filled = (template: string, values: Readonly<Record<string, string>>): string =>
  template.replaceAll(/\{(\w+)\}/g, (whole, name: string) =>
    Object.hasOwn(values, name) ? (values[name] as string) : whole
  );

const metadataSchema = z.object({ issuer: z.string().max(1000), token_endpoint: z.url().max(1000) });

/** Where tokens are given: as the connector says, or else the provider (RFC 8414), at the address of the account in any case. */
async function tokenRequest(
  clock: Clock,
  access: ProviderAccess,
  { path, scope, sentIn }: Extract<ConnectorSignIn, { by: 'client-credentials' }>
): Promise<TokenRequest> {
  if (path !== undefined) return { path, scope, sentIn };
  const { origin, pathname } = new URL(access.endpoint);
  const at = { ...access, endpoint: origin };
  const wellKnown = `/.well-known/oauth-authorization-server${pathname.replace(/\/+$/, '')}`;
  const found = await exchangeJson(
    clock,
    at,
    wellKnown,
    () => ({ headers: { accept: 'application/json' } }),
    metadataSchema
  );
  if (found.issuer.replace(/\/+$/, '') !== access.endpoint.replace(/\/+$/, ''))
    throw malformed(
      `What gives tokens says that it is ${found.issuer.slice(0, 200)}, which is not the address of the account.`
    );
  const tokens = new URL(found.token_endpoint);
  if (tokens.origin !== origin)
    throw malformed(
      `The provider gives tokens at ${tokens.host}. Bussola sends a secret to the address of the account alone.`
    );
  return { endpoint: origin, path: tokens.pathname + tokens.search, scope, sentIn };
}
