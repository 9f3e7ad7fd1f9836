import type { Targets } from '$lib/core/targets';
import { refusalIn } from '../../providers/port/exchange';
import { outboundTo, partsOf, type Outbound } from '../../providers/port/outbound';
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

/** Calls pages of one account: connections stay open between two readings. */
export interface PageCaller {
  /** The body of a page. @throws ProviderError in words for people */
  read(url: string, how: Reading): Promise<Buffer>;
}

/**
 * Calls the pages of one account, under the policy on addresses: bounded in time and size, never redirected.
 *
 * @param reach addresses and ranges of this machine and of private networks that may be called
 * @example await pageCaller(['127.0.0.1'], { signIn: { by: 'nothing' }, secret: '' }).read('http://127.0.0.1:9000/metrics', { accept: 'text/plain', patienceMs: 10_000, mostBytes: 1e6 })
 */
export function pageCaller(reach: readonly string[], { signIn, authority, secret }: PageAccess): PageCaller {
  const call: Outbound = outboundTo(reach, undefined, {
    ...(signIn.by === 'certificate' ? { cert: signIn.certificate, key: secret } : {}),
    ...(authority === undefined ? {} : { ca: [authority] })
  });
  const headers = signingIn(signIn, secret);
  return {
    read: async (url, { accept, patienceMs, mostBytes }) => {
      const signal = AbortSignal.timeout(patienceMs);
      try {
        const response = await call(url, { headers: { ...headers, accept }, signal });
        if (response.status !== 200) throw statusFault(response);
        return await boundedBody(response, signal, mostBytes);
      } catch (error) {
        throw faultOf(error, new URL(url), patienceMs);
      }
    }
  };
}

function signingIn(signIn: PageAccess['signIn'], secret: string): Record<string, string> {
  if (signIn.by === 'bearer') return { authorization: `Bearer ${secret}` };
  if (signIn.by === 'basic')
    return { authorization: `Basic ${Buffer.from(`${signIn.name}:${secret}`, 'utf8').toString('base64')}` };
  return signIn.by === 'header' ? { [signIn.header]: secret } : {};
}

async function boundedBody(response: Response, signal: AbortSignal, mostBytes: number): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of partsOf(response, signal)) {
    size += part.byteLength;
    if (size > mostBytes)
      throw new ProviderError(
        'malformed',
        `It has more than ${mostBytes / 1048576} MiB.`,
        'Enter the address of a smaller page.'
      );
    parts.push(part);
  }
  return Buffer.concat(parts);
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
  if (error instanceof ProviderError) return error;
  const refused = refusalIn(error);
  if (refused !== null) return refused;
  const cause = error instanceof Error ? (error.cause as { code?: string; message?: string } | undefined) : undefined;
  if (cause?.message === 'unexpected redirect')
    return new ProviderError(
      'refused',
      `${host} leads elsewhere, and Bussola does not follow.`,
      'Enter the address that it leads to.'
    );
  const isLate = error instanceof Error && (error.name === 'TimeoutError' || error.name === 'AbortError');
  const why = isLate
    ? `no whole answer within ${patienceMs / 1000} s`
    : (reasons[cause?.code ?? ''] ?? cause?.message ?? String(error));
  return new ProviderError(
    'unreachable',
    `${host} was not read: ${why}.`,
    'Check the address, and that this machine may reach it.',
    {
      cause: error
    }
  );
}

const reasons: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'nothing listens there (connection refused)',
  ENOTFOUND: 'there is no host of that name',
  EAI_AGAIN: 'its name could not be looked up',
  ECONNRESET: 'the connection was cut',
  UND_ERR_SOCKET: 'the connection was cut',
  UND_ERR_CONNECT_TIMEOUT: 'no connection within 10 s',
  CERT_HAS_EXPIRED: 'its certificate has expired',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'its certificate is self-signed; enter it as authority',
  SELF_SIGNED_CERT_IN_CHAIN: 'its certificate is of an authority that is not trusted here',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'its certificate is of an authority that is not trusted here',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its certificate is of an authority that is not trusted here',
  ERR_TLS_CERT_ALTNAME_INVALID: 'its certificate is for another name',
  ERR_SSL_TLSV13_ALERT_CERTIFICATE_REQUIRED: 'it asks for a client certificate'
};
