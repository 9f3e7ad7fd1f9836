import { Resolver } from 'node:dns/promises';
import type { RecordKind, Target } from '$lib/core/reachability';
import { AttemptFailed, type Going } from './going';
import { notReached } from './connect';

/** Answers that are remembered, and characters of each. */
const [mostAnswers, longestAnswer] = [20, 300];

/**
 * Asks a name server for records of a name.
 *
 * @throws AttemptFailed when none of the answers is what is expected, or the policy refuses the name server
 */
export async function askName(
  { name, record, is, server }: Extract<Target, { kind: 'dns' }>,
  going: Going
): Promise<void> {
  // The attempt has a time limit of its own.
  const resolver = new Resolver({ timeout: 5000, tries: 2 });
  if (server !== '') {
    const { address, port } = serverOf(server);
    const refused = going.refusedWhy(address);
    if (refused !== null) throw notReached(refused);
    resolver.setServers([address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`]);
    going.progress.address = address;
  }
  going.signal.addEventListener('abort', () => resolver.cancel(), { once: true });
  const found = await going.phase('name', () => answersOf(resolver, name, record));
  going.progress.answers = found.slice(0, mostAnswers).map((one) => one.slice(0, longestAnswer));
  if (is !== '' && !found.some((one) => one.toLowerCase() === is.toLowerCase()))
    throw new AttemptFailed(`The answer is ${going.progress.answers.join(', ') || 'empty'}, not ${is}.`);
}

async function answersOf(resolver: Resolver, name: string, record: RecordKind): Promise<string[]> {
  switch (record) {
    case 'A':
      return resolver.resolve4(name);
    case 'AAAA':
      return resolver.resolve6(name);
    case 'CNAME':
      return resolver.resolveCname(name);
    case 'NS':
      return resolver.resolveNs(name);
    case 'MX':
      return (await resolver.resolveMx(name)).map(({ exchange }) => exchange);
    case 'TXT':
      return (await resolver.resolveTxt(name)).map((parts) => parts.join(''));
    default:
      throw new TypeError(`answersOf: unknown ${JSON.stringify(record satisfies never)}`);
  }
}

/** Address and port of a name server as people write them. @example serverOf('192.0.2.53:5353') // { address: '192.0.2.53', port: 5353 } */
export function serverOf(text: string): { address: string; port: number } {
  const bracketed = /^\[([^\]]+)\](?::(\d+))?$/.exec(text);
  const plain = bracketed ?? /^([0-9.]+)(?::(\d+))?$/.exec(text);
  return plain ? { address: plain[1] as string, port: Number(plain[2] ?? 53) } : { address: text, port: 53 };
}
