// cost_items
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { itemIdentity, type CostItem } from '$lib/core/cost';
import type { Queryable } from '../db/pool';

/** An item as it is stored. */
export interface StoredItem {
  readonly id: number;
  readonly accountId: number;
  readonly item: CostItem;
  readonly revision: number;
}

const labelsSchema = z.record(z.string(), z.string());
const columns = `id, account_id as "accountId", resource, resource_name as "resourceName", resource_type as "resourceType", region, service, usage, unit, category, currency, labels, revision`;
type Row = CostItem & Omit<StoredItem, 'item'>;

/** Items that changed since a revision, oldest change first. */
export async function itemsSince(db: Queryable, revision: number, most: number): Promise<StoredItem[]> {
  const rows = await db.rows<Row>(`select ${columns} from cost_items where revision > $1 order by revision limit $2`, [
    revision,
    most
  ]);
  return rows.map(({ id, accountId, revision: of, labels, ...item }) => ({
    ...{ id, accountId, revision: of },
    item: { ...item, labels: labelsSchema.parse(labels) }
  }));
}

/** Currencies that something is billed in. */
export const billedCurrencies = async (db: Queryable): Promise<string[]> =>
  (await db.rows<{ currency: string }>('select distinct currency from cost_items order by currency')).map(
    ({ currency }) => currency
  );

/** By what an item is found again. */
export const keyOf = (item: CostItem): string => createHash('sha256').update(itemIdentity(item)).digest('base64');

/** The numbers of all items of an account, by their keys. */
export async function numbersOf(db: Queryable, accountId: number): Promise<Map<string, number>> {
  const rows = await db.rows<{ id: number; key: Buffer }>('select id, key from cost_items where account_id = $1', [
    accountId
  ]);
  return new Map(rows.map(({ id, key }) => [key.toString('base64'), id]));
}

/** Items in one statement at most. */
const atOnce = 5000;

/** Saves items, those that are known under the names and labels that they have now. @returns the numbers of those that changed, by their keys */
export async function saveItems(
  db: Queryable,
  accountId: number,
  items: ReadonlyMap<string, CostItem>
): Promise<Map<string, number>> {
  const numbers = new Map<string, number>();
  const all = [...items];
  for (let first = 0; first < all.length; first += atOnce) {
    const some = all.slice(first, first + atOnce).map(([key, item]) => ({ key, ...item }));
    const rows = await db.rows<{ id: number; key: Buffer }>(
      `insert into cost_items (account_id, key, resource, resource_name, resource_type, region, service, usage, unit, category, currency, labels, revision)
       select $1, decode(key, 'base64'), resource, "resourceName", "resourceType", region, service, usage, unit, category, currency, labels, nextval('cost_revisions')
       from jsonb_to_recordset($2::jsonb) as found (key text, resource text, "resourceName" text, "resourceType" text, region text, service text, usage text, unit text,
         category text, currency text, labels jsonb)
       on conflict (account_id, key) do update
       set resource_name = excluded.resource_name, resource_type = excluded.resource_type, labels = excluded.labels, revision = excluded.revision
       where (cost_items.resource_name, cost_items.resource_type, cost_items.labels) is distinct from (excluded.resource_name, excluded.resource_type, excluded.labels)
       returning id, key`,
      [accountId, JSON.stringify(some)]
    );
    for (const { id, key } of rows) numbers.set(key.toString('base64'), id);
  }
  return numbers;
}
