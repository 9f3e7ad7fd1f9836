import { lookup } from 'node:dns/promises';
import { connect, isIP, type Socket } from 'node:net';
import { connect as secureConnect, TLSSocket } from 'node:tls';
import { once } from 'node:events';
import { bulkhead } from 'cockatiel';
import type { Instant } from '$lib/core/time';
import { AttemptFailed, type Going } from './going';

/** Whether a TLS handshake follows a connection, and whether its certificate has to be one that this machine trusts. */
export interface Secure {
  readonly trusted: boolean;
}

/**
 * A connection to the first address of a host that the policy permits, with a TLS handshake where one is wanted.
 *
 * @param host a name or an address, IPv6 ones without brackets
 * @param secure null for a plain connection
 * @param at the time by which a certificate is judged
 * @throws AttemptFailed when the policy or the certificate is against it; whatever the system fails by
 */
export async function connected(
  host: string,
  port: number,
  secure: Secure | null,
  going: Going,
  at: Instant
): Promise<Socket> {
  const { signal, progress, refusedWhy } = going;
  const isName = isIP(host) === 0;
  const address = isName ? await going.phase('name', () => permittedOf(host, refusedWhy)) : host;
  const refused = refusedWhy(address);
  if (refused !== null) throw notReached(refused);
  progress.address = address;
  signal.throwIfAborted();
  const socket =
    secure === null
      ? connect({ host: address, port })
      : // The certificate is judged below: it is to be looked at also when it is refused.
        secureConnect({ host: address, port, rejectUnauthorized: false, ...(isName && { servername: host }) });
  // It may fail at any time, also when nobody waits for it.
  socket.on('error', () => undefined);
  signal.addEventListener('abort', () => socket.destroy(), { once: true });
  await going.phase('connect', () => once(socket, 'connect'));
  if (secure !== null && socket instanceof TLSSocket) {
    await going.phase('secure', () => once(socket, 'secureConnect'));
    judgeCertificate(socket, secure, going, at);
  }
  return socket;
}

/** Names that are looked up at once: each holds one of the few threads that files are read with as well. */
const lookups = bulkhead(2, 10_000);

async function permittedOf(host: string, refusedWhy: Going['refusedWhy']): Promise<string> {
  const found = await lookups.execute(() => lookup(host, { all: true }));
  const permitted = found.find(({ address }) => refusedWhy(address) === null);
  if (permitted) return permitted.address;
  throw notReached(refusedWhy(found[0]?.address ?? '') ?? `${host} leads nowhere`);
}

/** Refused by the policy on addresses. */
export const notReached = (why: string): AttemptFailed =>
  new AttemptFailed(
    `It was not called: ${why}. If it is on a network of yours, have the one who runs Bussola name it in BUSSOLA_REACH.`
  );

/** Why a certificate is not trusted, by the codes of the system. */
const distrust: Readonly<Record<string, string>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'it is signed by itself',
  SELF_SIGNED_CERT_IN_CHAIN: 'its issuer is not one that this machine trusts',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'certificates between it and its issuer are missing',
  UNABLE_TO_GET_ISSUER_CERT: 'its issuer is not known',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its issuer is not one that this machine trusts',
  ERR_TLS_CERT_ALTNAME_INVALID: 'it is for another name',
  CERT_HAS_EXPIRED: 'it has expired',
  CERT_NOT_YET_VALID: 'it is not valid yet',
  CERT_REVOKED: 'it was revoked'
};

/** Writes down when the certificate expires. @throws AttemptFailed when it has, or it is not trusted and has to be */
function judgeCertificate(socket: TLSSocket, { trusted }: Secure, { progress }: Going, at: Instant): void {
  const until = Date.parse(socket.getPeerCertificate().valid_to);
  if (Number.isFinite(until)) {
    progress.certificateUntil = until as Instant;
    if (until <= at) throw new AttemptFailed('The certificate has expired.');
  }
  if (!trusted || socket.authorized) return;
  const code = String(socket.authorizationError);
  throw new AttemptFailed(`The certificate is not trusted: ${distrust[code] ?? code}.`);
}
