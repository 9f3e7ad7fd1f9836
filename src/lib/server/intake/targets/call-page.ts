import { createSecureContext, rootCertificates, type SecureContext } from 'node:tls';
import type { Targets } from '$lib/core/targets';
import { basicOf } from '../../providers/port/client-credentials';
import { refusalIn } from '../../providers/port/exchange';
import { answerBody, whyCallFailed } from '../../providers/port/answer-body';
import { outboundTo, type Outbound } from '../../providers/port/outbound';
import { ProviderError } from '../../providers/port/provider';

/** How an account signs in at its pages, with what is secret of it opened. */
export interface PageAccess extends Pick<Targets, 'signIn' | 'authority'> {
  readonly secret: string;
}

/** How one answer is read. */
export interface Reading {
  readonly accept: string;
  readonly patienceMs: number;
  readonly mostBytes: number;
}

/** Calls pages of one account. */
export interface PageCaller {
  /** The body of a page. @throws ProviderError in words for people */
  read(url: string, how: Reading): Promise<Buffer>;
}

/**
 * Calls the pages of one account, under the policy on addresses: bounded in time and size, never redirected.
 *
 * @param reach addresses and ranges of this machine and of private networks that may be called
 * @throws for certificates that are none
 * @example await pageCaller(['127.0.0.1'], { signIn: { by: 'nothing' }, secret: '' }).read('http://127.0.0.1:9000/metrics', { accept: 'text/plain', patienceMs: 10_000, mostBytes: 1e6 })
 */
export function pageCaller(reach: readonly string[], { signIn, authority, secret }: PageAccess): PageCaller {
  const call: Outbound = outboundTo(reach, undefined, contextOf({ signIn, authority, secret }));
  const headers = signingIn(signIn, secret);
  return {
    read: async (url, { accept, patienceMs, mostBytes }) => {
      const signal = AbortSignal.timeout(patienceMs);
      try {
        const response = await call(url, { headers: { ...headers, accept }, signal });
        if (response.status !== 200) throw statusFault(response);
        return await answerBody(response, signal, mostBytes, 'Enter the address of a smaller page.');
      } catch (error) {
        throw faultOf(error, new URL(url), patienceMs);
      }
    }
  };
}

/** Made once for all pages: reading what is trusted takes a while. */
function contextOf({ signIn, authority, secret }: PageAccess): SecureContext | undefined {
  if (signIn.by !== 'certificate' && authority === undefined) return undefined;
  return createSecureContext({
    ...(signIn.by === 'certificate' && { cert: signIn.certificate, key: secret }),
    // Another authority comes to those that are trusted anyway.
    ...(authority !== undefined && { ca: [...rootCertificates, authority] })
  });
}

function signingIn(signIn: PageAccess['signIn'], secret: string): Record<string, string> {
  if (signIn.by === 'bearer') return { authorization: `Bearer ${secret}` };
  if (signIn.by === 'basic') return { authorization: basicOf(signIn.name, secret) };
  return signIn.by === 'header' ? { [signIn.header]: secret } : {};
}

function statusFault({ status }: Response): ProviderError {
  if (status === 401 || status === 403)
    return new ProviderError(
      'signature',
      `It refuses the sign-in (${status}).`,
      'Check how Bussola signs in, and the secret.'
    );
  return new ProviderError('refused', `It answers ${status}.`, 'Check the address in a browser.');
}

function faultOf(error: unknown, { host }: URL, patienceMs: number): ProviderError {
  const refused = refusalIn(error);
  if (refused !== null) return refused;
  if (error instanceof Error && (error.cause as Error | undefined)?.message === 'unexpected redirect')
    return new ProviderError(
      'refused',
      `${host} leads elsewhere, and Bussola does not follow.`,
      'Enter the address that it leads to.'
    );
  return new ProviderError(
    'unreachable',
    `${host} was not read: ${whyCallFailed(error, patienceMs)}.`,
    'Check the address, and that this machine may reach it.',
    { cause: error }
  );
}
