import * as client from 'openid-client';
import { z } from 'zod';
import { Refusal } from '$lib/core/problem/problem';
import type { SecretBox } from '../base/secrets';
import type { Queryable } from '../db/pool';
import { linkSubject, personByNameOrMail, personBySubject, type Person } from '../people/people';

/** Another service that says who people are (OpenID Connect). */
export interface IssuerConfig {
  readonly url: string;
  readonly clientId: string;
  readonly clientSecret: string;
  /** What people call it. */
  readonly name: string;
}

/** What is remembered between leaving for the issuer and coming back, by the browser that left. */
export interface Leaving {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
  /** Where they wanted to go. */
  readonly to: string;
}

/** Seconds that an answer of the issuer may take. */
const patience = 10;

/**
 * Signs people in by an issuer: authorization code with PKCE (RFC 7636), state and nonce.
 *
 * @param origin Bussola's own address, to which people come back
 * @example const { url, leaving } = await issuer.leave('/boards/3')
 */
export class Issuer {
  private found: Promise<client.Configuration> | null = null;

  constructor(
    private readonly config: IssuerConfig,
    private readonly origin: string
  ) {}

  get name(): string {
    return this.config.name;
  }

  private get back(): string {
    return `${this.origin}/sign-in/back`;
  }

  /** What the issuer says of itself, asked for once; again when it did not answer. */
  private discovered(): Promise<client.Configuration> {
    const { url, clientId, clientSecret } = this.config;
    const insecure = new URL(url).protocol === 'http:' ? [client.allowInsecureRequests] : [];
    this.found ??= client
      .discovery(new URL(url), clientId, undefined, client.ClientSecretBasic(clientSecret), {
        execute: insecure,
        timeout: patience
      })
      .catch((error: unknown) => {
        this.found = null;
        throw error;
      });
    return this.found;
  }

  /** The address to go to, and what is remembered meanwhile. @throws Refusal `unreachable` */
  async leave(to: string): Promise<{ readonly url: string; readonly leaving: Leaving }> {
    const configuration = await this.discovered().catch((error: unknown) => {
      throw new Refusal('unreachable', `${this.name} does not answer.`, 'Sign in by name and password, or try again.', {
        cause: error
      });
    });
    const verifier = client.randomPKCECodeVerifier();
    const leaving = { state: client.randomState(), nonce: client.randomNonce(), verifier, to };
    const url = client.buildAuthorizationUrl(configuration, {
      redirect_uri: this.back,
      scope: 'openid profile email',
      code_challenge: await client.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      state: leaving.state,
      nonce: leaving.nonce
    });
    return { url: url.href, leaving };
  }

  /**
   * Who came back. Whoever is known there by a subject is that person here; who comes for the first time is whoever has the same mail address, if the issuer says that it is theirs.
   *
   * @param address at which they came back, with what the issuer added
   * @throws Refusal `not-allowed` for an answer that was not asked for, or for somebody who is not known here
   */
  async arrive(db: Queryable, address: URL, { state, nonce, verifier }: Leaving): Promise<Person> {
    const returned = new URL(`${this.back}${address.search}`);
    const claims = await this.discovered()
      .then((configuration) =>
        client.authorizationCodeGrant(configuration, returned, {
          pkceCodeVerifier: verifier,
          expectedState: state,
          expectedNonce: nonce,
          idTokenExpected: true
        })
      )
      .then((tokens) => tokens.claims())
      .catch((error: unknown) => {
        throw new Refusal(
          'not-allowed',
          `${this.name} did not sign you in.`,
          'Try again, or sign in by name and password.',
          {
            cause: error
          }
        );
      });
    if (claims === undefined) throw new Refusal('not-allowed', `${this.name} did not say who you are.`, 'Try again.');
    const known = await personBySubject(db, claims.iss, claims.sub);
    if (known !== null) return known;
    const mail = typeof claims['email'] === 'string' && claims['email_verified'] === true ? claims['email'] : null;
    const person = mail?.includes('@') ? await personByNameOrMail(db, mail) : null;
    if (person === null || !(await linkSubject(db, person.id, claims.iss, claims.sub)))
      throw new Refusal(
        'not-allowed',
        `Nobody here has ${mail === null ? 'your address: it was not confirmed there' : `the address ${mail}`}.`,
        'Ask an administrator of this workspace for an invitation.'
      );
    return person;
  }
}

const leavingSchema = z.object({ state: z.string(), nonce: z.string(), verifier: z.string(), to: z.string() });

/** What was remembered, of a cookie; null for one that is none of ours. */
export function leavingFrom(secrets: SecretBox, cookie: string | undefined): Leaving | null {
  if (cookie === undefined || cookie.length > 4000) return null;
  try {
    return leavingSchema.parse(JSON.parse(secrets.open(Buffer.from(cookie, 'base64url'))));
  } catch {
    return null; // sealed with another key, or made up
  }
}
