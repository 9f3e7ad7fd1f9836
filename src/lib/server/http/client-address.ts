import { isIP } from 'node:net';
import { AddressRanges, plainAddress } from '../base/address-ranges';

/**
 * Tells where requests come from. Behind a proxy all come from it: of proxies that are named, and of no others, their word is taken.
 *
 * @param proxies addresses or ranges, such as `10.0.0.0/8`
 * @throws Refusal naming what is neither
 * @example clientAddresses(['127.0.0.1'])('127.0.0.1', '192.0.2.7') // '192.0.2.7'
 */
export function clientAddresses(
  proxies: readonly string[]
): (socket: string | undefined, forwarded: string | null) => string {
  const named = new AddressRanges(proxies, 'BUSSOLA_PROXIES');
  return (socket, forwarded) => {
    if (socket === undefined) return ''; // whoever called is gone already
    // Each proxy adds the address it was called from behind those before: the last one that no proxy of ours has is who called.
    const way = [...(forwarded ?? '').split(','), socket].map((address) => plainAddress(address.trim()));
    for (let place = way.length - 1; place > 0; place--) {
      const address = way[place] as string;
      if (!named.has(address)) return address;
      if (isIP(way[place - 1] as string) === 0) return address; // what a proxy was told is no address
    }
    return way[0] as string;
  };
}
