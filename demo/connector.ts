// A connector that the demo's people have written: Grecale, of which the guide tells.
import { readFileSync } from 'node:fs';
import type { Instant } from '../src/lib/core/time';
import { insertConnector } from '../src/lib/server/connectors/stored-connectors';
import type { Queryable } from '../src/lib/server/db/pool';

export async function seedConnector(within: Queryable, now: Instant): Promise<void> {
  const text = readFileSync('static/connectors/grecale.yaml', 'utf8');
  await insertConnector(within, { key: 'grecale', name: 'Grecale', text, changedAt: now, changedBy: 'Kaja Tamm' });
}
