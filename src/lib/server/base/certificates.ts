import { createPrivateKey, X509Certificate } from 'node:crypto';

/** What is wrong with a certificate and its key. */
export interface CertificateFault {
  readonly of: 'certificate' | 'key';
  /** Goes on after the name of what is wrong. @example 'is no certificate (PEM)' */
  readonly why: string;
}

/**
 * What is wrong with a certificate and its private key, as PEM; nothing where they can be used together.
 *
 * @example certificateFaults('what', key) // [{ of: 'certificate', why: 'is no certificate (PEM)' }]
 */
export function certificateFaults(certificate: string | Buffer, key: string | Buffer): CertificateFault[] {
  const read = attempt(() => new X509Certificate(certificate));
  const privateKey = attempt(() => createPrivateKey(key));
  if (read === null || privateKey === null)
    return [
      ...(read === null ? [{ of: 'certificate' as const, why: 'is no certificate (PEM)' }] : []),
      ...(privateKey === null ? [{ of: 'key' as const, why: 'is no private key (PEM) without a password' }] : [])
    ];
  return read.checkPrivateKey(privateKey) ? [] : [{ of: 'key', why: 'is not the key of the certificate' }];
}

/** Whether a text is a certificate (PEM). */
export const isCertificate = (text: string): boolean => attempt(() => new X509Certificate(text)) !== null;

/** What OpenSSL refuses is nothing, whatever it says. */
function attempt<Value>(work: () => Value): Value | null {
  try {
    return work();
  } catch {
    return null;
  }
}
