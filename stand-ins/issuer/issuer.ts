import { generateKeyPairSync } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { setTimeout } from 'node:timers/promises';
import type { Configuration } from 'oidc-provider';
import { Behaving } from '../messaging/behaviour';
import { page, safe } from '../page';
import { issuerClient } from './client';

/** Who may sign in at the issuer: people of Corallo Lines, and somebody whom nobody invited. */
export const identities = [
  { sub: 'u-101', name: 'Kaja Tamm', mail: 'kaja.tamm@example.test', verified: true },
  { sub: 'u-102', name: 'Nerea Olmo', mail: 'nerea.olmo@example.test', verified: true },
  { sub: 'u-103', name: 'Ivo Brandt', mail: 'ivo.brandt@example.test', verified: true },
  { sub: 'u-104', name: 'Oda Lind', mail: 'oda.lind@example.test', verified: false },
  { sub: 'u-199', name: 'Tove Falk', mail: 'tove.falk@example.test', verified: true }
] as const;

export interface Issuer {
  readonly url: string;
  readonly behaving: Behaving;
  close(): Promise<void>;
}

const slowMs = 5000;
/** Where a client of the issuer may send people back to: Bussola on this machine, on whichever port it is. */
const mayReturnTo = (address: string): boolean =>
  /^http:\/\/(localhost|127\.0\.0\.1):\d+\/sign-in\/back$/.test(address);

const claimsOf = (sub: string) => {
  const one = identities.find((identity) => identity.sub === sub);
  return one === undefined
    ? undefined
    : { accountId: sub, claims: () => ({ sub, name: one.name, email: one.mail, email_verified: one.verified }) };
};

const configuration = (): Configuration => ({
  clients: [
    {
      client_id: issuerClient.id,
      client_secret: issuerClient.secret,
      redirect_uris: ['http://localhost:4300/sign-in/back'],
      grant_types: ['authorization_code'],
      response_types: ['code']
    }
  ],
  claims: { profile: ['name'], email: ['email', 'email_verified'] },
  // What people are is said in the token itself.
  conformIdTokenClaims: false,
  pkce: { required: () => true },
  features: { devInteractions: { enabled: false } },
  interactions: { url: (_context, { uid }) => `/choose/${uid}` },
  findAccount: (_context, sub) => claimsOf(sub),
  jwks: { keys: [signingKey()] },
  cookies: { keys: ['made up for the stand-in'] },
  // Nobody is asked whether Bussola may know their address.
  loadExistingGrant: async ({ oidc }) => {
    const grant = new oidc.provider.Grant({
      clientId: oidc.client?.clientId ?? '',
      accountId: oidc.session?.accountId ?? ''
    });
    grant.addOIDCScope('openid profile email');
    await grant.save();
    return grant;
  },
  ttl: { Interaction: 3600, Session: 60, Grant: 3600, AccessToken: 600, IdToken: 600, AuthorizationCode: 60 }
});

/** A key of its own at every start. */
const signingKey = () => ({
  ...generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({ format: 'jwk' }),
  ...{ use: 'sig', alg: 'RS256', kid: 'stand-in' }
});

/** Does something without the package's warnings, which are for those who run it for real: that it keeps everything in memory, and of the runtime. */
async function quietly<Result>(work: () => Promise<Result>): Promise<Result> {
  const { warn } = console;
  Object.assign(console, { warn: () => undefined });
  return work().finally(() => Object.assign(console, { warn }));
}

/**
 * Starts a stand-in that says who people are (OpenID Connect): whoever comes chooses on a page who they are.
 *
 * @param port 0 for any free one
 * @example const issuer = await startIssuer(0); // issuer.url is what BUSSOLA_ISSUER is set to
 */
export async function startIssuer(port: number): Promise<Issuer> {
  const server: Server = createServer();
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const behaving = new Behaving();
  const provider = await quietly(async () => new (await import('oidc-provider')).default(url, configuration()));
  provider.Client.prototype.redirectUriAllowed = mayReturnTo;
  const answer = provider.callback();

  async function choose(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { uid } = await provider.interactionDetails(request, response);
    const chosen = new URL(request.url ?? '/', url).searchParams.get('as');
    if (chosen !== null && claimsOf(chosen) !== undefined)
      return provider.interactionFinished(request, response, { login: { accountId: chosen } });
    const list = identities.map(
      ({ sub, name, mail, verified }) =>
        `<li><a href="/choose/${safe(uid)}?as=${sub}">${safe(name)}</a> <span class="quiet">${safe(mail)}${verified ? '' : ', not verified'}</span></li>`
    );
    response.setHeader('content-type', 'text/html; charset=utf-8');
    response.end(page('Who are you?', `<ul>${list.join('')}</ul>`));
  }

  server.on('request', (request, response) => {
    void (async () => {
      if (behaving.current === 'down' || behaving.current === 'cut') return response.destroy();
      if (behaving.current === 'refuse') return response.writeHead(503).end('refused on purpose');
      if (behaving.current === 'slow') await setTimeout(slowMs);
      if (request.url?.startsWith('/choose/')) return choose(request, response);
      return answer(request, response);
    })().catch((error: unknown) => response.writeHead(400).end(String(error)));
  });
  return {
    url,
    behaving,
    close: async () => {
      server.closeAllConnections();
      server.close();
      await once(server, 'close');
    }
  };
}
