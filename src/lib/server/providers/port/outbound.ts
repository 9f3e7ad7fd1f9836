import { lookup, type LookupAddress, type LookupAllOptions } from 'node:dns';
import { isIP, type LookupFunction } from 'node:net';
import type { SecureContext } from 'node:tls';
import { Agent, buildConnector, fetch as undiciFetch } from 'undici';
import { AddressRanges, plainAddress } from '../../base/address-ranges';
import { ProviderError } from './provider';

/** Calls an address that a person entered, under the policy of {@link outboundTo}. */
export type Outbound = typeof fetch;

/** Never called, named or not: this host, link-local addresses and those where clouds keep what is only for the machine itself, addresses for many or for none. */
const never = new AddressRanges(
  [
    ...[
      '0.0.0.0/8',
      '169.254.0.0/16',
      '192.0.0.0/24',
      '100.100.100.200',
      '168.63.129.16',
      '224.0.0.0/4',
      '240.0.0.0/4'
    ],
    ...['::', 'fe80::/10', 'fec0::/10', 'fd00:ec0::/28', 'ff00::/8', '64:ff9b::/96', '64:ff9b:1::/48', '2002::/16']
  ],
  'the addresses never called'
);

/** Called only where the configuration names them. */
const inside = new AddressRanges(
  [
    ...['127.0.0.0/8', '10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10', '198.18.0.0/15'],
    ...['::1', 'fc00::/7']
  ],
  'the addresses of networks'
);

/**
 * The policy on addresses that people tell Bussola to call: which are refused, and why. Whatever a name leads to is judged at each connection, so that a name
 * that leads elsewhere the second time gains nothing.
 *
 * @param named what the configuration names of this machine and of private networks
 * @returns why an address is refused, in words; null when it may be called
 * @example addressPolicy(new AddressRanges([], 'BUSSOLA_REACH'))('10.0.0.7') // '10.0.0.7 is on a private network …'
 */
export const addressPolicy =
  (named: AddressRanges) =>
  (address: string): string | null => {
    if (isIP(plainAddress(address)) === 0) return `${address} is no address`;
    if (never.has(address)) return `${address} is link-local or reserved, and never called`;
    if (inside.has(address) && !named.has(address))
      return `${address} is on this machine or a private network that the configuration does not name`;
    return null;
  };

/** Why an address is refused, in words; null when it may be called. */
export type AddressPolicy = ReturnType<typeof addressPolicy>;

/** The policy where only these addresses and ranges of this machine and of private networks may be called. @throws Refusal naming what is neither */
export const policyOf = (reach: readonly string[]): AddressPolicy =>
  addressPolicy(new AddressRanges(reach, 'BUSSOLA_REACH'));

/**
 * A `fetch` that connects only where the policy permits, and never follows elsewhere.
 *
 * @param reach addresses and ranges of this machine and of private networks that may be called
 * @param resolve looks names up; the system does by default
 * @param secureContext what is shown and trusted by TLS; what is usual by default
 * @throws Refusal naming what is neither an address nor a range
 * @example const call = outboundTo(['127.0.0.1']); await call('http://127.0.0.1:4301/levante/v1/owner')
 */
export function outboundTo(
  reach: readonly string[],
  resolve: Resolve = lookup,
  secureContext?: SecureContext
): Outbound {
  const refusedWhy = policyOf(reach);
  const guardedLookup: LookupFunction = (host, options, done) =>
    resolve(host, { ...options, all: true }, (failure, found) => {
      if (failure) return done(failure, []);
      const [first, ...more] = found.filter(({ address }) => refusedWhy(address) === null);
      if (!first) {
        const why = refusedWhy(found[0]?.address ?? host) ?? `${host} leads nowhere`;
        return done(notReached(why) as Error, []); // it becomes the cause of the failed connection
      }
      if (options.all) return (done as unknown as All)(null, [first, ...more]);
      done(null, first.address, first.family);
    });
  const connected = buildConnector({
    lookup: guardedLookup,
    timeout: connectMs,
    ...(secureContext && { secureContext })
  });
  const agent = new Agent({
    connect: (options, done) => {
      // A literal address is not looked up.
      const refused = isIP(plainAddress(options.hostname)) === 0 ? null : refusedWhy(options.hostname);
      if (refused === null) return connected(options, done);
      done(notReached(refused), null);
    }
  });
  // Both are the same interface; the types of Node's own were made from an older undici.
  return ((url: string, init: RequestInit) =>
    undiciFetch(url, { ...(init as object), redirect: 'error', dispatcher: agent })) as unknown as Outbound;
}

type All = (failure: null, found: LookupAddress[]) => void;

/** Looks a name up, all its addresses. */
export type Resolve = (
  host: string,
  options: LookupAllOptions,
  done: (failure: NodeJS.ErrnoException | null, found: LookupAddress[]) => void
) => void;

/** How long a connection may take to come about. */
const connectMs = 10_000;

const notReached = (why: string): ProviderError =>
  new ProviderError(
    'unreachable',
    `It was not called: ${why}.`,
    'Enter the address of the provider. If it really is on a network of yours, have the one who runs Bussola name it in BUSSOLA_REACH.'
  );

/**
 * The parts of an answer's body, until it ends or a signal says so. The signal given to `fetch` is not enough for that: it is no longer heeded once the request
 * behind the answer has been collected as garbage.
 *
 * @throws the signal's reason
 * @example for await (const part of partsOf(response, AbortSignal.timeout(15_000))) size += part.byteLength;
 */
export async function* partsOf({ body }: Response, signal: AbortSignal): AsyncGenerator<Uint8Array> {
  if (body === null) return;
  const reader = (body as ReadableStream<Uint8Array>).getReader();
  const end = (): void => void reader.cancel().catch(() => undefined);
  signal.addEventListener('abort', end);
  try {
    signal.throwIfAborted();
    for (let part = await reader.read(); !part.done; part = await reader.read()) yield part.value;
    signal.throwIfAborted();
  } finally {
    signal.removeEventListener('abort', end);
    end();
  }
}
