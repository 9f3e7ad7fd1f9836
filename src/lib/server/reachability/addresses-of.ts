import type { LookupAddress } from 'node:dns';
import { lookup, Resolver } from 'node:dns/promises';
import { setTimeout } from 'node:timers/promises';
import { bulkhead } from 'cockatiel';

/** How long a name server may take, and by how much the IPv6 addresses may come later than the others (RFC 8305, section 3), ms. */
const serverMs = 5000;
const laterMs = 50;
/** Names that this machine looks up itself at once: each holds one of the few threads that files are read with as well. */
const lookups = bulkhead(2, 10_000);

/**
 * All addresses of a name. Name servers are asked without a thread of the system, so that names whose servers never answer hold no others up; only what they do not know is looked up
 * as this machine does, with its own file of hosts.
 *
 * @param servers name servers to ask; those of this machine by default
 * @throws what the system fails by, such as with the code `ENOTFOUND` or `ETIMEOUT`
 * @example await addressesOf('localhost') // [{ address: '127.0.0.1', family: 4 }]
 */
export async function addressesOf(host: string, servers: readonly string[] = []): Promise<LookupAddress[]> {
  const asThisMachine = () => lookups.execute(() => lookup(host, { all: true }));
  if (!host.includes('.')) return asThisMachine(); // of its own network, or itself
  const resolver = new Resolver({ timeout: serverMs, tries: 1 });
  if (servers.length > 0) resolver.setServers(servers);
  const older = resolver.resolve4(host);
  const newer = resolver.resolve6(host).catch(() => []);
  try {
    const found = (await older).map((address) => ({ address, family: 4 }));
    const more = await Promise.race([newer, setTimeout(laterMs, [], { ref: false })]);
    return [...found, ...more.map((address) => ({ address, family: 6 }))];
  } catch (failure) {
    const only = (await newer).map((address) => ({ address, family: 6 }));
    if (only.length > 0) return only;
    if ((failure as NodeJS.ErrnoException).code === 'ETIMEOUT') throw failure;
    return asThisMachine();
  } finally {
    resolver.cancel();
  }
}
