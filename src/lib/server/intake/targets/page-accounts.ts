// accounts of OpenMetrics pages
import { readStored, writeStored } from '$lib/core/forms/stored';
import { targetsForm, type Targets } from '$lib/core/targets';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { pagesProvider } from '../../inventory/self-described';

/** An account of OpenMetrics pages as the schedule knows it. */
export interface PageAccount {
  readonly id: number;
  readonly name: string;
  readonly sealedSecret: Buffer;
  readonly definition: Targets;
  /** When the list of pages was read last. */
  readonly listedAt: Instant | null;
}

interface Row {
  readonly id: number;
  readonly name: string;
  readonly sealedSecret: Buffer;
  readonly settings: unknown;
  readonly listedAt: Instant | null;
}

const select = `select id, name, secret_sealed as "sealedSecret", settings, discovery_tried_at as "listedAt" from accounts`;

/** Every account of pages; one whose settings cannot be read is named instead. */
export async function pageAccounts(db: Queryable): Promise<{
  readonly accounts: PageAccount[];
  readonly unreadable: { readonly id: number; readonly error: unknown }[];
}> {
  const accounts: PageAccount[] = [];
  const unreadable: { id: number; error: unknown }[] = [];
  for (const row of await db.rows<Row>(`${select} where provider = $1 and removed_at is null order by id`, [
    pagesProvider
  ]))
    try {
      accounts.push(accountOf(row));
    } catch (error) {
      unreadable.push({ id: row.id, error });
    }
  return { accounts, unreadable };
}

/** @returns null where there is no such account of pages */
export async function pageAccount(db: Queryable, id: number): Promise<PageAccount | null> {
  const [row] = await db.rows<Row>(`${select} where id = $1 and provider = $2 and removed_at is null`, [
    id,
    pagesProvider
  ]);
  return row === undefined ? null : accountOf(row);
}

/** Saves what an account reads, and its secret where there is another one. */
export async function savePages(
  db: Queryable,
  id: number,
  definition: Targets,
  sealedSecret: Buffer | null,
  at: Instant
): Promise<void> {
  await db.rows(
    `update accounts
     set settings = $2, secret_sealed = coalesce($3, secret_sealed), secret_changed_at = case when $3::bytea is null then secret_changed_at else $4 end,
       discovery_tried_at = null
     where id = $1`,
    [id, writeStored(targetsForm, definition), sealedSecret, at]
  );
}

const accountOf = ({ settings, ...row }: Row): PageAccount => ({
  ...row,
  definition: readStored(targetsForm, settings, row.name)
});
