import { Refusal } from '$lib/core/problem/problem';
import { BlockList, isIP } from 'node:net';

/** Addresses and ranges of them, to be asked whether an address is among them. */
export class AddressRanges {
  readonly #list = new BlockList();

  /**
   * @param ranges addresses or ranges, such as `10.0.0.0/8`
   * @param namedIn where people wrote them, for the error
   * @throws Refusal naming what is neither
   * @example new AddressRanges(['10.0.0.0/8'], 'BUSSOLA_REACH').has('10.1.2.3') // true
   */
  constructor(ranges: readonly string[], namedIn: string) {
    for (const range of ranges) this.#add(range, namedIn);
  }

  /** An address written in whatever way; what is no address is among none. */
  has(address: string): boolean {
    const bare = plainAddress(address);
    const version = isIP(bare);
    return version !== 0 && this.#list.check(bare, version === 6 ? 'ipv6' : 'ipv4');
  }

  #add(range: string, namedIn: string): void {
    const [address = '', prefix] = range.split('/');
    const version = isIP(address);
    const most = version === 6 ? 128 : 32;
    const length = prefix === undefined ? most : Number(prefix);
    if (version === 0 || !Number.isInteger(length) || length < 0 || length > most)
      throw new Refusal(
        'configuration',
        `${range} in ${namedIn} is neither an address nor a range.`,
        'Write it such as 192.0.2.7 or 10.0.0.0/8.'
      );
    this.#list.addSubnet(address, length, version === 6 ? 'ipv6' : 'ipv4');
  }
}

/** An address without brackets and zone; IPv4 addresses within IPv6 ones are what they stand for. @example plainAddress('[::ffff:127.0.0.1]') // '127.0.0.1' */
export function plainAddress(address: string): string {
  const bare = address.replace(/^\[|\]$/g, '').replace(/%.*$/, '');
  if (isIP(bare) !== 6) return bare;
  const written = new URL(`http://[${bare}]`).hostname.slice(1, -1);
  const within = /^::ffff:([0-9a-f]{1,4}):([0-9a-f]{1,4})$/.exec(written);
  if (!within) return written;
  const [high, low] = [parseInt(within[1] as string, 16), parseInt(within[2] as string, 16)];
  return [high >> 8, high & 255, low >> 8, low & 255].join('.');
}
