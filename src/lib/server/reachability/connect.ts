import { connect, isIP, type LookupFunction, type Socket } from 'node:net';
import { connect as secureConnect, TLSSocket } from 'node:tls';
import { once } from 'node:events';
import type { Instant } from '$lib/core/time';
import { addressesOf } from './addresses-of';
import { AttemptFailed, type Going } from './going';

/** Whether a TLS handshake follows a connection, and whether its certificate has to be one that this machine trusts. */
export interface Secure {
  readonly trusted: boolean;
}

/**
 * A connection to a host, with a TLS handshake where one is wanted. Of several addresses one after the other is tried, IPv6 and IPv4 in turn, but never one that the policy refuses.
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
  const found = isName ? await going.phase('name', () => addressesOf(host)) : [{ address: host, family: isIP(host) }];
  const permitted = found.filter(({ address }) => refusedWhy(address) === null);
  const [first] = permitted;
  if (first === undefined) throw notReached(refusedWhy(found[0]?.address ?? '') ?? `${host} leads nowhere`);
  progress.address = first.address;
  signal.throwIfAborted();
  // What was judged is what is connected to: the name is not looked up again.
  const lookup: LookupFunction = (_host, { all }, done) =>
    all === true ? done(null, permitted) : done(null, first.address, first.family);
  const to = { port, ...(isName ? { host, lookup, autoSelectFamily: true } : { host: first.address }) };
  const socket =
    secure === null
      ? connect(to)
      : // The certificate is judged below: it is to be looked at also when it is refused.
        secureConnect({ ...to, rejectUnauthorized: false, ...(isName && { servername: host }) });
  // It may fail at any time, also when nobody waits for it.
  socket.on('error', () => undefined);
  signal.addEventListener('abort', () => socket.destroy(), { once: true });
  await going.phase('connect', () => once(socket, 'connect'));
  progress.address = socket.remoteAddress ?? first.address;
  if (secure !== null && socket instanceof TLSSocket) {
    await going.phase('secure', () => once(socket, 'secureConnect'));
    judgeCertificate(socket, secure, going, at);
  }
  return socket;
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
