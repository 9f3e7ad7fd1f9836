import { partsOf } from './outbound';
import { ProviderError } from './provider';

/**
 * The whole body of an answer, refused before it fills the memory.
 *
 * @param mostBytes that it may have, unpacked
 * @param remedy what to do where it has more
 * @throws ProviderError (malformed); the signal's reason
 */
export async function answerBody(
  response: Response,
  signal: AbortSignal,
  mostBytes: number,
  remedy: string
): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of partsOf(response, signal)) {
    size += part.byteLength;
    if (size > mostBytes)
      throw new ProviderError('malformed', `An answer of more than ${mostBytes / 1048576} MiB was refused.`, remedy);
    parts.push(part);
  }
  return Buffer.concat(parts);
}

/** Why no connection came about, by the code of its failure. */
const reasons: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'nothing listens there (connection refused)',
  ENOTFOUND: 'there is no host of that name',
  EAI_AGAIN: 'its name could not be looked up',
  ECONNRESET: 'the connection was cut',
  UND_ERR_SOCKET: 'the connection was cut',
  UND_ERR_CONNECT_TIMEOUT: 'no connection came about in time',
  CERT_HAS_EXPIRED: 'its certificate has expired',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'its certificate is self-signed, and no authority that is trusted here vouches for it',
  SELF_SIGNED_CERT_IN_CHAIN: 'its certificate is of an authority that is not trusted here',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'its certificate is of an authority that is not trusted here',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its certificate is of an authority that is not trusted here',
  ERR_TLS_CERT_ALTNAME_INVALID: 'its certificate is for another name',
  ERR_SSL_TLSV13_ALERT_CERTIFICATE_REQUIRED: 'it asks for a client certificate'
};

/**
 * Why a call failed, in words; what is not known here as the cause of the failure says it. An error without a cause is of the request itself, and may hold what it was to send: of it nothing is said.
 *
 * @param patienceMs how long it might take
 * @example whyCallFailed(Object.assign(new Error(), { cause: { code: 'ENOTFOUND' } }), 15_000) // 'there is no host of that name'
 */
export function whyCallFailed(error: unknown, patienceMs: number): string {
  if (!(error instanceof Error)) return 'it failed';
  if (error.name === 'TimeoutError') return `no answer within ${patienceMs / 1000} s`;
  const { code, message } = (error.cause ?? {}) as { code?: string; message?: string };
  return reasons[code ?? ''] ?? message ?? 'the request could not be made';
}
