import { readFileSync } from 'node:fs';
import type { Connector } from '../../src/lib/core/connector';
import type { ConnectorPool } from '../../src/lib/server/providers/connector/connector-pool';
import { plainGuard } from '../../src/lib/server/providers/port/guard';
import { outboundTo } from '../../src/lib/server/providers/port/outbound';
import type { ProviderAccess } from '../../src/lib/server/providers/port/provider';

/** The text of a connector that ships with Bussola. */
export const shippedConnector = (name: string): string => readFileSync(`static/connectors/${name}.yaml`, 'utf8');

/** The connector of a text that can be read. */
export async function connectorOf(pool: ConnectorPool, text: string): Promise<Connector> {
  const read = await pool.read(text);
  if (read.kind === 'unreadable') throw new Error(JSON.stringify(read.problems));
  return read.connector;
}

/** Access with a credential, to this machine alone, without limits. */
export const accessBy = (endpoint: string, keyId: string, secret: string): ProviderAccess => ({
  ...{ endpoint, keyId, secret },
  guard: plainGuard(),
  fetch: outboundTo(['127.0.0.1'])
});

/** All of something that comes one by one. */
export async function allOf<T>(items: AsyncIterable<T>): Promise<T[]> {
  const all: T[] = [];
  for await (const one of items) all.push(one);
  return all;
}
